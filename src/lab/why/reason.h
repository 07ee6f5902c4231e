// Why a body rests, slows, falls or goes on, in a sentence made from its books.
#pragma once

#include "lab/why/booked.h"

namespace bronvel {

/// A sentence, and which of its words stand for a cause: that is where it is tuned.
struct Reason {
  struct Link {
    std::size_t begin = 0, length = 0;  ///< bytes of the text
    NamedCause cause;
  };
  std::string text;
  std::vector<Link> links;
};

/// At the moment; empty where nothing was booked then.
Reason reason_of(const BookedBody& body, std::int64_t tick, double tick_rate);

}  // namespace bronvel
