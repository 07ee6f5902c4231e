// What is heard of a tick of a take: the same as when it was played, to what a take keeps of forces.
#pragma once

#include "lab/takes/take_reader.h"
#include "sound/heard.h"

namespace bronvel {

/// `has_file` tells whether the scene has a sound of that name.
Heard hear(const Take& take, TakeReader& reader, std::int64_t tick,
           const std::function<bool(const std::string&)>& has_file);

}  // namespace bronvel
