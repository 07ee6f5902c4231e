// The hands in play: which tool is taken up, how strong it is, and what its drag becomes.
#pragma once

#include <QFrame>
#include <optional>

#include "app/session/session.h"
#include "dynamics/world/blast.h"

class QButtonGroup;
class QLabel;

namespace bronvel {

class NumberField;

/// What the left mouse button does on a body while a play runs.
enum class Tool { look, hand, flick, knife, blast };

/// The strip of tools on the stage, seen while a play runs.
class StageTools : public QFrame {
  Q_OBJECT

 public:
  explicit StageTools(Session& session, QWidget* parent = nullptr);
  Tool tool() const { return tool_; }
  void take(Tool tool);
  Blast blast_at(const Vec3& point) const;
  double hand_most() const { return hand_most_; }  ///< N
  Holding holding() const { return holding_; }
  /// The impulse of an arrow drawn that long (m) on a body of that mass (kg), N·s.
  double flick_impulse(double length, double mass) const { return length * flick_speed_ * mass; }

 signals:
  void taken();

 private:
  void rebuild();
  NumberField* number(const QString& name, const QString& unit, double* value, const QString& tip);

  Session& session_;
  Tool tool_ = Tool::hand;
  QButtonGroup* group_ = nullptr;
  QWidget* settings_ = nullptr;
  double hand_most_ = 2000;
  Holding holding_ = Holding::free;
  double flick_speed_ = 4;  // m/s for each metre of arrow
  double blast_radius_ = 3, blast_impulse_ = 200, blast_upward_ = 0.3;
};

}  // namespace bronvel
