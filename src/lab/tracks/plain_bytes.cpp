// Numbers and vectors as bytes.
#include "lab/tracks/plain_bytes.h"

#include <bit>

namespace bronvel {

void put_plain(ByteList& to, double x) {
  const auto bits = std::bit_cast<std::uint64_t>(x);
  for (unsigned i = 0; i < 8; ++i) to.push_back(static_cast<std::uint8_t>(bits >> (8 * i)));
}

double take_double(ByteView& from) {
  if (from.size() < 8) throw Error("take", "what was recorded ends too early");
  std::uint64_t bits = 0;
  for (unsigned i = 0; i < 8; ++i) bits |= std::uint64_t{from[i]} << (8 * i);
  from = from.subspan(8);
  return std::bit_cast<double>(bits);
}

void put_plain(ByteList& to, const Vec3& v) {
  for (int i = 0; i < 3; ++i) put_plain(to, v[i]);
}

Vec3 take_vector(ByteView& from) {
  Vec3 v;
  for (int i = 0; i < 3; ++i) v[i] = take_double(from);
  return v;
}

std::size_t take_length(ByteView& from) {
  const std::int64_t n = take_number_off(from);
  if (n < 0 || static_cast<std::uint64_t>(n) > from.size()) throw Error("take", "what was recorded ends too early");
  return static_cast<std::size_t>(n);
}

}  // namespace bronvel
