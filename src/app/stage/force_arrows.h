// What acts on what is chosen, as arrows where it acts: each with its letter and size, torques as arcs.
#pragma once

#include "app/session/session.h"
#include "app/stage/pencil.h"
#include "lab/why/booked.h"

namespace bronvel {

/// Their length grows with the square root of the force, against the body's weight: the same rule from moment to
/// moment. Of impulses it is against the greatest of them, and their lines are broken.
class ForceArrows {
 public:
  void draw(Pencil& pencil, Session& session);
  /// The cause of the arrow near the pixel.
  std::optional<NamedCause> near(const QPointF& pixel) const;

 private:
  struct Drawn {
    QPointF from, to;
    NamedCause cause;
  };
  std::vector<Drawn> drawn_;  // as it was last
};

}  // namespace bronvel
