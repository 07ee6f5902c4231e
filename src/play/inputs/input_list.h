// The inputs of a play in their order: those that have acted, and those of an earlier play that are still to come.
#pragma once

#include <span>

#include "play/inputs/input.h"

namespace bronvel {

class InputList {
 public:
  explicit InputList(std::vector<Input> inputs) : all_(std::move(inputs)) {}

  const std::vector<Input>& all() const { return all_; }
  std::span<const Input> acted() const { return std::span(all_).first(next_); }
  /// Acts in its tick: after those of that tick that are there already, before what is still to come.
  void add(Input input);
  /// Has acted already, between two ticks.
  void add_acted(Input input);
  /// The next that acts in this tick or should have; null if there is none. It counts as acted.
  const Input* take_due(std::int64_t tick);

 private:
  std::vector<Input> all_;
  std::size_t next_ = 0;  // the first that is still to come
};

}  // namespace bronvel
