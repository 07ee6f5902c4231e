// Keeping contacts.
#include "lab/tracks/contact_track.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

constexpr double point_quantum = 0x1p-10;  // m
constexpr double normal_quantum = 0x1p-9;
constexpr double least_force = 1e-3;  // N: forces are kept as logarithms from here on
constexpr double steps_a_factor_e = 64;

std::int64_t whole(double x) {
  constexpr double most = 1e12;
  return std::llround(std::clamp(std::isfinite(x) ? x : 0, -most, most));
}
std::int64_t force_number(double newtons) {
  return whole(steps_a_factor_e * std::log1p(std::max(newtons, 0.0) / least_force));
}
double force_of(std::int64_t n) {
  return least_force * std::expm1(static_cast<double>(n) / steps_a_factor_e);
}

bool at_rest(const World& world, BodyHandle body) {
  return world.body_settings(body).kind != MotionKind::dynamic || world.asleep(body);
}

// The ones that bear most, where there are too many.
template <class Each>
void keep_most(std::vector<Each>& list) {
  if (list.size() <= most_touching) return;
  std::nth_element(list.begin(), list.begin() + most_touching, list.end(),
                   [](const Each& x, const Each& y) { return x.along > y.along; });
  list.resize(most_touching);
}

}  // namespace

void renew_touching(std::vector<Touching>& touching, const World& world) {
  if (touching.capacity() == 0) touching.reserve(2 * most_touching);
  std::erase_if(touching, [&](const Touching& each) {
    return !world.alive(each.a) || !world.alive(each.b) || !at_rest(world, each.a) || !at_rest(world, each.b);
  });
  const std::size_t asleep = touching.size();
  for (const ContactEvent& contact : world.contacts()) {
    if (contact.phase == ContactPhase::part || contact.points.empty() || !world.alive(contact.a) ||
        !world.alive(contact.b))
      continue;
    Touching fresh;
    fresh.a = contact.a;
    fresh.b = contact.b;
    for (const Vec3& point : contact.points) fresh.point += point;
    fresh.points = static_cast<int>(contact.points.size());
    fresh.point /= fresh.points;
    fresh.normal = contact.normal;
    fresh.along = contact.normal_impulse * world.settings().tick_rate;
    fresh.across = contact.friction_impulse * world.settings().tick_rate;
    // One that fell asleep in this tick is told of anew.
    const auto end_asleep = touching.begin() + static_cast<std::ptrdiff_t>(asleep);
    const auto known = asleep > 0 && at_rest(world, fresh.a) && at_rest(world, fresh.b)
                           ? std::find_if(touching.begin(), end_asleep,
                                          [&](const Touching& each) { return each.a == fresh.a && each.b == fresh.b; })
                           : end_asleep;
    if (known != end_asleep)
      *known = fresh;
    else
      touching.push_back(fresh);
  }
  keep_most(touching);
}

ContactTrack::Row ContactTrack::row_of(const ContactMark& mark) {
  Row row{mark.a, mark.b, {}};
  for (std::size_t i = 0; i < 3; ++i) {
    const auto axis = static_cast<Eigen::Index>(i);
    row.numbers[i] = whole(mark.point[axis] / point_quantum);
    row.numbers[3 + i] = whole(mark.normal[axis] / normal_quantum);
  }
  row.numbers[6] = force_number(mark.along);
  row.numbers[7] = force_number(mark.across);
  row.numbers[8] = mark.points;
  return row;
}

ContactMark ContactTrack::mark_of(const Row& row) {
  ContactMark mark;
  mark.a = row.a;
  mark.b = row.b;
  for (std::size_t i = 0; i < 3; ++i) {
    const auto axis = static_cast<Eigen::Index>(i);
    mark.point[axis] = static_cast<double>(row.numbers[i]) * point_quantum;
    mark.normal[axis] = static_cast<double>(row.numbers[3 + i]) * normal_quantum;
  }
  mark.normal = mark.normal.norm() > 0 ? Vec3(mark.normal.normalized()) : Vec3::Unit(1);
  mark.along = force_of(row.numbers[6]);
  mark.across = force_of(row.numbers[7]);
  mark.points = static_cast<int>(row.numbers[8]);
  return mark;
}

// A tick is the count of its pairs and one more, 0 where all is as in the tick before; then each pair: how far its
// names are from those of the pair before, which numbers are others than in the tick before, and by how much.
void ContactTrack::add(std::vector<ContactMark> marks, Packer& packer) {
  std::vector<Row> rows;
  rows.reserve(marks.size());
  for (ContactMark& mark : marks) {
    if (mark.a > mark.b) {
      std::swap(mark.a, mark.b);
      mark.normal = -mark.normal;
    }
    rows.push_back(row_of(mark));
  }
  const auto before = [](const Row& x, const Row& y) { return std::pair(x.a, x.b) < std::pair(y.a, y.b); };
  std::sort(rows.begin(), rows.end(), before);
  if (open_ticks_ > 0 && rows == last_) {
    put_number(open_, 0);
  } else {
    put_number(open_, static_cast<std::int64_t>(rows.size()) + 1);
    std::int64_t a = 0, b = 0;
    auto known = last_.begin();
    for (const Row& row : rows) {
      put_number(open_, row.a - a);
      put_number(open_, row.b - b);
      a = row.a, b = row.b;
      while (known != last_.end() && before(*known, row)) ++known;
      const bool was = known != last_.end() && known->a == row.a && known->b == row.b;
      std::int64_t mask = 0;
      for (std::size_t i = 0; i < columns; ++i)
        if (row.numbers[i] != (was ? known->numbers[i] : 0)) mask |= std::int64_t{1} << i;
      put_number(open_, mask);
      for (std::size_t i = 0; i < columns; ++i)
        if ((mask >> i & 1) != 0) put_number(open_, row.numbers[i] - (was ? known->numbers[i] : 0));
    }
    last_ = std::move(rows);
  }
  ++ticks_;
  if (++open_ticks_ < ticks_a_chunk) return;
  chunks_.push_back({packer.packed(open_), static_cast<std::uint32_t>(open_.size())});
  bytes_ += chunks_.back().packed.capacity() + sizeof(Chunk);
  open_.clear();
  last_.clear();
  open_ticks_ = 0;
}

void ContactTrack::unpack(std::int64_t tick, Packer& packer, std::int64_t& first,
                          std::vector<std::vector<ContactMark>>& marks) const {
  const auto chunk = static_cast<std::size_t>(tick / ticks_a_chunk);
  first = static_cast<std::int64_t>(chunk) * ticks_a_chunk;
  std::vector<std::uint8_t> raw;
  std::span<const std::uint8_t> from(open_);
  std::size_t count = static_cast<std::size_t>(open_ticks_);
  if (chunk < chunks_.size()) {
    raw.resize(chunks_[chunk].raw);
    packer.unpack(chunks_[chunk].packed, raw);
    from = raw;
    count = ticks_a_chunk;
  }
  marks.assign(count, {});
  std::vector<Row> last;
  const auto broken = [] { throw Error("take", "the contacts that were recorded can't be read"); };
  for (std::size_t i = 0; i < count; ++i) {
    if (const std::int64_t rows = take_number_off(from); rows > 0) {
      if (static_cast<std::size_t>(rows) - 1 > most_touching) broken();
      std::vector<Row> now(static_cast<std::size_t>(rows) - 1);
      std::int64_t a = 0, b = 0;
      auto known = last.begin();
      for (Row& row : now) {
        a += take_number_off(from);
        b += take_number_off(from);
        row.a = static_cast<std::uint32_t>(a), row.b = static_cast<std::uint32_t>(b);
        while (known != last.end() && std::pair(known->a, known->b) < std::pair(row.a, row.b)) ++known;
        if (known != last.end() && known->a == row.a && known->b == row.b) row.numbers = known->numbers;
        const std::int64_t mask = take_number_off(from);
        for (std::size_t k = 0; k < columns; ++k)
          if ((mask >> k & 1) != 0) row.numbers[k] += take_number_off(from);
      }
      last = std::move(now);
    } else if (rows < 0) {
      broken();
    }
    marks[i].reserve(last.size());
    for (const Row& row : last) marks[i].push_back(mark_of(row));
  }
}

void ContactTrack::write(std::vector<std::uint8_t>& to) const {
  put_number(to, ticks_);
  put_number(to, static_cast<std::int64_t>(chunks_.size()));
  for (const Chunk& chunk : chunks_) {
    put_number(to, chunk.raw);
    put_text(to, chunk.packed);
  }
  put_text(to, {open_.begin(), open_.end()});
}

ContactTrack ContactTrack::read(std::span<const std::uint8_t>& from) {
  ContactTrack track;
  track.ticks_ = take_number_off(from);
  const std::int64_t chunks = take_number_off(from);
  const auto broken = [] { throw Error("take", "the contacts that were recorded can't be read"); };
  if (chunks < 0 || track.ticks_ / ticks_a_chunk != chunks) broken();
  constexpr std::int64_t most_raw = std::int64_t{1} << 26;
  for (std::int64_t i = 0; i < chunks; ++i) {
    Chunk chunk;
    const std::int64_t raw = take_number_off(from);
    if (raw < 0 || raw > most_raw) broken();
    chunk.raw = static_cast<std::uint32_t>(raw);
    chunk.packed = take_text_off(from);
    track.bytes_ += chunk.packed.capacity() + sizeof(Chunk);
    track.chunks_.push_back(std::move(chunk));
  }
  const std::string open = take_text_off(from);
  track.open_.assign(open.begin(), open.end());
  track.open_ticks_ = static_cast<int>(track.ticks_ % ticks_a_chunk);
  return track;
}

}  // namespace bronvel
