// Arrays and scattering, with their numbers and the outcome shown while they are set.
#pragma once

#include <QFrame>

#include "app/session/session.h"

class QLabel;
class QToolButton;
class QGridLayout;

namespace bronvel {

class NumberField;

class ArrangeSheet : public QFrame {
  Q_OBJECT

 public:
  enum class What { line, grid, ring, scatter };
  explicit ArrangeSheet(Session& session, QWidget* parent = nullptr);
  /// For the chosen bodies.
  void open(What what);
  void make();    ///< as one edit
  void cancel();  ///< as it was

 private:
  NumberField* number(const QString& name, const QString& unit, double* value, const QString& tip);
  void whole(const QString& name, int* value, const QString& tip);
  void show_outcome();
  void hideEvent(QHideEvent* event) override;

  Session& session_;
  What what_ = What::line;
  BodyNames names_;
  ArrayPlan array_;
  Vec3 gaps_ = Vec3::Zero(), extent_ = Vec3::Zero();  // of a grid: between them, and of what stands in it, m
  ScatterPlan scatter_;
  double seed_ = 1;
  QWidget* inside_ = nullptr;
  QGridLayout* grid_ = nullptr;
  QLabel* note_ = nullptr;
  std::vector<std::unique_ptr<double>> wholes_;
};

}  // namespace bronvel
