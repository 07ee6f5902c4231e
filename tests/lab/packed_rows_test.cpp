// Rows of numbers come back as they were put in, from any place and in any order, and what is no such rows is refused.
#include "lab/tracks/packed_rows.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <cmath>

#include "geometry/base/error.h"

using namespace bronvel;

namespace {

constexpr std::array<double, 3> quanta{0x1p-21, 0, 1};

// A walk that stands still, glides, jumps and jitters.
std::vector<std::array<double, 3>> walk(std::size_t length) {
  std::vector<std::array<double, 3>> rows;
  std::array<double, 3> now{*rc::gen::inRange(-1000, 1000) * 0.37, 0, 0}, step{};
  while (rows.size() < length) {
    const int kind = *rc::gen::inRange(0, 5);
    if (kind == 0) step = {};
    if (kind == 1) step = {*rc::gen::inRange(-100, 100) * 1e-3, *rc::gen::inRange(-100, 100) * 1e-2, 1};
    if (kind == 2) now[0] = *rc::gen::inRange(-1000000, 1000000) * 1.7;
    if (kind == 3) now[1] = *rc::gen::elementOf(std::vector<double>{0, -0.0, 1e30, -1e30, 1e-30, 3.5});
    for (int n = *rc::gen::inRange(1, 90); n > 0 && rows.size() < length; --n) {
      if (kind == 4) now[0] += (n % 2 == 0 ? 1 : -1) * 1e-4;
      for (std::size_t i = 0; i < 3; ++i) now[i] += step[i];
      rows.push_back(now);
    }
  }
  return rows;
}

double off_by(const PackedRows& packed, const std::vector<std::array<double, 3>>& rows, std::int64_t at) {
  Packer packer;
  std::vector<double> chunk;
  const PackedRows::Place place = packed.place(at);
  packed.unpack(place, packer, chunk);
  const auto row = static_cast<std::size_t>(place.chunk < 0 ? 0 : at - place.first);
  const std::array<double, 3>& wanted = rows[static_cast<std::size_t>(at)];
  const double single = std::abs(chunk[row * 3 + 1] - wanted[1]) / std::max(std::abs(wanted[1]), 1e-37);
  return std::max(
      {std::abs(chunk[row * 3] - wanted[0]) / 2.4e-7, single / 6e-8, std::abs(chunk[row * 3 + 2] - wanted[2])});
}

}  // namespace

TEST_CASE("rows come back as they were, in any order, from memory and from bytes") {
  CHECK(rc::check([] {
    const auto rows = walk(static_cast<std::size_t>(*rc::gen::inRange(1, 900)));
    Packer packer;
    PackedRows packed(quanta, *rc::gen::inRange(1, PackedRows::rows_a_chunk + 1));
    for (const auto& row : rows) packed.add(row.data(), packer);
    RC_ASSERT(packed.rows() == static_cast<std::int64_t>(rows.size()));
    std::vector<std::uint8_t> bytes;
    packed.write(bytes);
    std::span<const std::uint8_t> from(bytes);
    PackedRows again = PackedRows::read(from, quanta);
    RC_ASSERT(from.empty());
    for (int look = 0; look < 40; ++look) {
      const auto at = *rc::gen::inRange<std::int64_t>(0, packed.rows());
      RC_ASSERT(off_by(packed, rows, at) <= 1.01);
      RC_ASSERT(off_by(again, rows, at) <= 1.01);
    }
    // What was read goes on being filled.
    auto longer = rows;
    for (int i = 0; i < 200; ++i) {
      longer.push_back({i * 0.5, 0, 7});
      again.add(longer.back().data(), packer);
    }
    for (std::int64_t at = 0; at < again.rows(); at += 17) RC_ASSERT(off_by(again, longer, at) <= 1.01);
  }));
}

TEST_CASE("what stands still takes next to nothing, what flies evenly little") {
  Packer packer;
  PackedRows still(quanta), flight(quanta);
  for (int i = 0; i < 100000; ++i) {
    const double t = i / 120.0;
    const std::array<double, 3> stands{1.25, 3, 1}, flies{10 + 4 * t - 4.905 * t * t, 4, 0};
    still.add(stands.data(), packer);
    flight.add(flies.data(), packer);
  }
  CHECK(still.bytes() < 500);
  CHECK(flight.bytes() < 200000);  // 2 bytes a row, instead of 24
}

TEST_CASE("bytes that are no rows are refused, whichever byte is another") {
  Packer packer;
  PackedRows packed(quanta, 50);
  for (int i = 0; i < 700; ++i) {
    const std::array<double, 3> row{std::sin(i * 0.1), i * 0.25, i % 7 == 0 ? 1.0 : 0.0};
    packed.add(row.data(), packer);
  }
  std::vector<std::uint8_t> bytes;
  packed.write(bytes);
  int refused = 0;
  for (std::size_t at = 0; at < bytes.size(); at += 3) {
    std::vector<std::uint8_t> altered = bytes;
    altered[at] ^= 0x55;
    if (at % 2 == 0) altered.resize(at);
    try {
      std::span<const std::uint8_t> from(altered);
      const PackedRows read = PackedRows::read(from, quanta);
      std::vector<double> rows;
      for (std::int64_t row = 0; row < read.rows(); row += 31) read.unpack(read.place(row), packer, rows);
    } catch (const Error&) {
      ++refused;
    }
  }
  CHECK(refused > 200);
}
