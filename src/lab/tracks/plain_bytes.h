// Plain values as bytes, and back: what the parts of a take's file are made of.
#pragma once

#include "geometry/base/error.h"
#include "geometry/base/vector.h"
#include "lab/tracks/packed_rows.h"

namespace bronvel {

using ByteList = std::vector<std::uint8_t>;
using ByteView = std::span<const std::uint8_t>;  ///< what is read is taken off its front

// All that take something off throw Error where the bytes end too early.
void put_plain(ByteList& to, double x);
void put_plain(ByteList& to, const Vec3& v);
double take_double(ByteView& from);
Vec3 take_vector(ByteView& from);
/// A count of things, each of which takes a byte at least: no more than what is left could hold.
std::size_t take_length(ByteView& from);

/// One of the words 0 to `most`. Throws Error for any other.
template <class Word>
Word take_word(ByteView& from, int most) {
  const std::int64_t n = take_number_off(from);
  if (n < 0 || n > most) throw Error("take", "what was recorded holds a word that is not known");
  return static_cast<Word>(n);
}

template <class Each>
void put_list(ByteList& to, const std::vector<Each>& list, void (*put_one)(ByteList&, const Each&)) {
  put_number(to, static_cast<std::int64_t>(list.size()));
  for (const Each& each : list) put_one(to, each);
}
template <class Each>
std::vector<Each> take_list(ByteView& from, Each (*take_one)(ByteView&)) {
  std::vector<Each> list(take_length(from));
  for (Each& each : list) each = take_one(from);
  return list;
}

}  // namespace bronvel
