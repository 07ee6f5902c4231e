// What of takes is drawn on the stage: the way of chosen bodies, their shape now and then, and the compared take's
// ghost.
#pragma once

#include "app/session/session.h"
#include "app/stage/pencil.h"

namespace bronvel {

/// What of it is switched on.
struct TakeMarks {
  bool way = true;        ///< the chosen bodies' way over the take, ticks as dots
  bool forces = true;     ///< what acts on what is chosen
  bool shapes = false;    ///< their shape every so many ticks
  bool contacts = false;  ///< where bodies touch, and how hard; of the chosen ones, if any are
  bool ghost = true;      ///< the compared take's way, and its bodies at the same moment
};

/// Ways are kept from one picture to the next, as long as take and choice are the same.
class TakeDrawing {
 public:
  void draw(Pencil& pencil, Session& session, const TakeMarks& marks);
  void forget();
  /// The touch whose mark is under the pixel.
  static std::optional<std::size_t> hit_near(const Pencil& pencil, Session& session, const TakeMarks& marks,
                                             const QPointF& pixel);

 private:
  struct Way {
    std::string body;
    std::vector<Vec3> points;  // from its first tick on
    std::int64_t first = 0;
  };
  struct Ways {
    const Take* of = nullptr;
    std::int64_t ticks = -1;
    std::vector<std::string> bodies;
    std::vector<Way> ways;
  };
  static void draw_contacts(Pencil& pencil, const Session& session);
  static void renew(Ways& ways, const Take& take, TakeReader& reader, const std::vector<std::string>& bodies);
  static void draw_way(Pencil& pencil, const Way& way, const QColor& colour, bool dashed);

  Ways shown_, compared_;
};

}  // namespace bronvel
