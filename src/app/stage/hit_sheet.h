// The hit sheet on the stage: all that is known of one hit, each number that can be tuned a link to where it stands.
#pragma once

#include <QFrame>
#include <QLabel>

#include "app/session/session.h"
#include "lab/takes/hit.h"

class QGridLayout;

namespace bronvel {

class HitSheet : public QFrame {
  Q_OBJECT

 public:
  explicit HitSheet(Session& session, QWidget* parent = nullptr);
  /// Of the take that is looked at. Stays until it is closed or another take is looked at.
  void show_hit(std::size_t event);
  const std::optional<HitReport>& hit() const { return hit_; }

 signals:
  void resized();
  // Where a number stands:
  void surface_asked(const QString& surface, const QString& number);  ///< a surface's number, by its property name
  void property_asked(const QString& property);                       ///< of the chosen body

 private:
  void rebuild();
  void row(const QString& name, const QString& value, const QString& below = {});
  QString link(const QString& target, const QString& text) const;
  void follow_link(const QString& target);

  Session& session_;
  std::optional<HitReport> hit_;
  QWidget* inside_ = nullptr;
  QGridLayout* grid_ = nullptr;
  int rows_ = 0;
};

}  // namespace bronvel
