// What made the difference between two takes, in the order of cause.
#pragma once

#include "lab/takes/take_reader.h"
#include "lab/why/booked.h"

namespace bronvel {

/// A body whose motion departs, and by which cause it did.
struct Departure {
  std::string body;
  double time = 0;             ///< s, when it had come so far apart that it is seen
  double first = 0;            ///< s, when its books first differ
  NamedCause cause;            ///< whose share differs most then; of the second take if it is there too
  double before = 0, now = 0;  ///< what that cause gave in that tick: mean force, N or N·m; at once, N·s or N·m·s
  bool known = false;          ///< whether the books told
};

/// A touch that came, went missing, or came at another moment.
struct EventDifference {
  std::string a, b;
  int number = 1;                     ///< which touch of the two
  std::optional<double> before, now;  ///< s; none where there was none
};

struct Difference {
  std::vector<std::string> changed;     ///< of what the takes were played from
  std::vector<Departure> departures;    ///< in their order; the first are told with their causes
  std::vector<EventDifference> events;  ///< in their order
  std::size_t bodies_alike = 0;
};

/// Bodies count as apart from `apart` m on. Each take is played once more for its books. `go_on` as in `book`.
Difference difference_of(const Take& before, const Take& now, double apart = 1e-3,
                         const std::function<bool()>& go_on = nullptr);

/// A sentence a line: what was changed; who departs first, when and why; who after that; touches.
std::vector<std::string> difference_lines(const Difference& difference);

}  // namespace bronvel
