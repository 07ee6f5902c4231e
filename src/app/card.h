// The card: the chosen body's properties and live readings, on the stage's edge.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QMap>
#include <functional>

#include "app/number_field.h"
#include "app/session.h"

class QGridLayout;
class QToolButton;

namespace bronvel {

class Card : public QFrame {
  Q_OBJECT

 public:
  explicit Card(Session& session, QWidget* parent = nullptr);

 private:
  void rebuild();      ///< for another body
  void show_values();  ///< after a change
  void show_readings();
  int add_group(QGridLayout* grid, int row, const QString& question);
  int add_number(QGridLayout* grid, int row, const Property& property);
  int add_surface(QGridLayout* grid, int row);
  QLabel* add_reading(QGridLayout* grid, int row, const QString& name, const QString& unit, const QString& tip);
  void attempt(const std::function<void()>& change);

  Session& session_;
  std::string body_;
  QMap<QString, NumberField*> fields_;
  QMap<QString, QLabel*> notes_;
  QToolButton* surface_ = nullptr;
  QLabel *name_ = nullptr, *kind_ = nullptr, *density_ = nullptr, *speed_ = nullptr, *height_ = nullptr,
         *position_ = nullptr, *state_ = nullptr;
  QWidget* inside_ = nullptr;
};

}  // namespace bronvel
