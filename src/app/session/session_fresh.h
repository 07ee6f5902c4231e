// What a play's thread hands over between two looks of the screen.
#pragma once

#include "app/session/session.h"
#include "app/session/why.h"

namespace bronvel {

/// Filled with the play locked, emptied likewise.
struct Session::Fresh {
  std::vector<Passing> passing;
  std::vector<LogLine> log;
  LiveBooks books;
};

}  // namespace bronvel
