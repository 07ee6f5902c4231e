// Places picked on the stage one after another: for a joint's bodies and point, a path, a measuring line.
#pragma once

#include <QStringList>
#include <functional>
#include <vector>

#include "geometry/base/vector.h"

namespace bronvel {

struct Pick {
  std::string body;  ///< "" for the ground
  Vec3 point = Vec3::Zero();
};

struct Picking {
  QStringList hints;       ///< what to click next, one a pick; the last stands for all that follow
  std::size_t wanted = 2;  ///< 0: until Return, or a click on the last place again
  std::size_t least = 2;
  std::function<void(const std::vector<Pick>&)> done;
  std::vector<std::string> of{};  ///< bodies that it is about, besides those that are picked
  std::vector<Pick> picks{};

  QString hint() const {
    return hints.isEmpty() ? "" : hints[std::min<qsizetype>(hints.size() - 1, static_cast<qsizetype>(picks.size()))];
  }
};

}  // namespace bronvel
