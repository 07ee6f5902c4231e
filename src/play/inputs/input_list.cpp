// Keeping inputs in order.
#include "play/inputs/input_list.h"

namespace bronvel {

void InputList::add(Input input) {
  auto place = all_.begin() + static_cast<std::ptrdiff_t>(next_);
  while (place != all_.end() && place->tick <= input.tick) ++place;
  all_.insert(place, std::move(input));
}

void InputList::add_acted(Input input) {
  all_.insert(all_.begin() + static_cast<std::ptrdiff_t>(next_), std::move(input));
  ++next_;
}

const Input* InputList::take_due(std::int64_t tick) {
  return next_ < all_.size() && all_[next_].tick <= tick ? &all_[next_++] : nullptr;
}

}  // namespace bronvel
