// Keeping bonds.
#include "lab/tracks/bond_track.h"

#include <algorithm>
#include <cmath>

#include "geometry/base/error.h"
#include "lab/tracks/plain_bytes.h"

namespace bronvel {
namespace {

constexpr double steps = 200;
constexpr std::uint32_t most_bonds = 1U << 24;

std::uint8_t step_of(float use) {
  constexpr double most = 255;
  return static_cast<std::uint8_t>(std::lround(std::clamp(steps * static_cast<double>(use), 0.0, most)));
}

[[noreturn]] void broken() {
  throw Error("take", "the bonds that were recorded can't be read");
}

double take_finite(ByteView& from) {
  const double x = take_double(from);
  if (!std::isfinite(x)) broken();
  return x;
}
Vec3 take_finite_vector(ByteView& from) {
  const Vec3 v = take_vector(from);
  if (!finite(v)) broken();
  return v;
}
// A count of things of at least a byte each.
std::uint32_t take_count_off(std::span<const std::uint8_t>& from, std::uint32_t most) {
  const std::int64_t n = take_number_off(from);
  if (n < 0 || n > static_cast<std::int64_t>(most)) broken();
  return static_cast<std::uint32_t>(n);
}

}  // namespace

std::uint32_t BondTrack::place_of(const std::shared_ptr<const PieceSet>& set) {
  for (std::size_t i = 0; i < sets_.size(); ++i)
    if (sets_[i].from == set) return static_cast<std::uint32_t>(i);
  Set& fresh = sets_.emplace_back();
  fresh.from = set;
  for (const SharedFace& face : set->faces) fresh.places.push_back({face.point, face.normal, face.area});
  bytes_ += fresh.places.capacity() * sizeof(Place);
  return static_cast<std::uint32_t>(sets_.size() - 1);
}

void BondTrack::add(std::int64_t tick, std::uint32_t body, const BondsNow* now, Packer& packer) {
  auto found = bodies_.find(body);
  if (found == bodies_.end()) {
    if (!now) return;
    found = bodies_.emplace(body, Body{}).first;
  }
  Body& track = found->second;
  if (!now) {
    if (!track.known) return;
    track.known = false;
    track.layouts.push_back({});
    track.uses.push_back({tick, static_cast<std::uint32_t>(track.layouts.size() - 1), {}});
    return;
  }
  const bool same_bonds = track.known && std::ranges::equal(track.bonds, now->bonds) &&
                          sets_[track.layouts.back().set].from == now->set &&
                          track.layouts.back().offset == now->offset;
  const auto used = [&](std::size_t k) { return k < now->use.size() ? step_of(now->use[k]) : std::uint8_t{0}; };
  bool same_use = same_bonds;
  for (std::size_t k = 0; same_use && k < now->bonds.size(); ++k) same_use = track.now[k] == used(k);
  if (same_use) return;
  if (!same_bonds) {
    Layout layout{place_of(now->set), now->offset, static_cast<std::uint32_t>(now->bonds.size()), {}};
    std::vector<std::uint8_t> raw;
    std::int64_t last = 0;
    for (const std::uint32_t bond : now->bonds) {
      put_number(raw, bond - last);
      last = bond;
    }
    layout.bonds = {packer.packed(raw), static_cast<std::uint32_t>(raw.size())};
    bytes_ += sizeof layout + layout.bonds.bytes.capacity();
    track.layouts.push_back(std::move(layout));
    track.bonds.assign(now->bonds.begin(), now->bonds.end());
    track.now.resize(now->bonds.size());
  }
  for (std::size_t k = 0; k < now->bonds.size(); ++k) track.now[k] = used(k);
  track.known = true;
  Use use{tick, static_cast<std::uint32_t>(track.layouts.size() - 1), {}};
  use.uses = {packer.packed(track.now), static_cast<std::uint32_t>(track.now.size())};
  bytes_ += sizeof use + use.uses.bytes.capacity();
  track.uses.push_back(std::move(use));
}

std::vector<BondReading> BondTrack::at(std::int64_t tick, std::uint32_t body, const Pose& pose, Packer& packer) const {
  std::vector<BondReading> all;
  const auto found = bodies_.find(body);
  if (found == bodies_.end()) return all;
  const Body& track = found->second;
  auto after = std::upper_bound(track.uses.begin(), track.uses.end(), tick,
                                [](std::int64_t t, const Use& each) { return t < each.tick; });
  if (after == track.uses.begin()) return all;
  const Use& use = *--after;
  const Layout& layout = track.layouts[use.layout];
  if (layout.count == 0) return all;
  std::vector<std::uint8_t> bonds(layout.bonds.raw), uses(use.uses.raw);
  packer.unpack(layout.bonds.bytes, bonds);
  packer.unpack(use.uses.bytes, uses);
  if (uses.size() != layout.count) broken();
  const std::vector<Place>& places = sets_[layout.set].places;
  std::span<const std::uint8_t> from(bonds);
  std::int64_t bond = 0;
  all.reserve(layout.count);
  for (std::uint32_t k = 0; k < layout.count; ++k) {
    bond += take_number_off(from);
    if (bond < 0 || bond >= static_cast<std::int64_t>(places.size())) broken();
    const Place& place = places[static_cast<std::size_t>(bond)];
    all.push_back(
        {pose.to_scene(place.point - layout.offset), pose.orientation * place.normal, place.area, uses[k] / steps});
  }
  return all;
}

void BondTrack::write(std::vector<std::uint8_t>& to) const {
  const auto put_packed = [&](const Packed& packed) {
    put_number(to, packed.raw);
    put_text(to, packed.bytes);
  };
  put_number(to, static_cast<std::int64_t>(sets_.size()));
  for (const Set& set : sets_) {
    put_number(to, static_cast<std::int64_t>(set.places.size()));
    for (const Place& place : set.places) {
      put_plain(to, place.point);
      put_plain(to, place.normal);
      put_plain(to, place.area);
    }
  }
  put_number(to, static_cast<std::int64_t>(bodies_.size()));
  for (const auto& [body, track] : bodies_) {
    put_number(to, body);
    put_number(to, static_cast<std::int64_t>(track.layouts.size()));
    for (const Layout& layout : track.layouts) {
      put_number(to, layout.set);
      put_plain(to, layout.offset);
      put_number(to, layout.count);
      put_packed(layout.bonds);
    }
    put_number(to, static_cast<std::int64_t>(track.uses.size()));
    for (const Use& use : track.uses) {
      put_number(to, use.tick);
      put_number(to, use.layout);
      put_packed(use.uses);
    }
  }
}

BondTrack BondTrack::read(std::span<const std::uint8_t>& from) {
  BondTrack track;
  const auto count = [&] {
    return take_count_off(from, static_cast<std::uint32_t>(std::min<std::size_t>(from.size(), most_bonds)));
  };
  const auto take_packed = [&] {
    Packed packed;
    packed.raw = take_count_off(from, most_bonds);
    packed.bytes = take_text_off(from);
    track.bytes_ += sizeof packed + packed.bytes.capacity();
    return packed;
  };
  for (std::uint32_t left = count(); left > 0; --left) {
    Set& set = track.sets_.emplace_back();
    for (std::uint32_t places = count(); places > 0; --places) {
      Place& place = set.places.emplace_back();
      place.point = take_finite_vector(from);
      place.normal = take_finite_vector(from);
      place.area = take_finite(from);
      track.bytes_ += sizeof place;
    }
  }
  for (std::uint32_t left = count(); left > 0; --left) {
    Body& body = track.bodies_[take_count_off(from, most_bonds)];
    for (std::uint32_t layouts = count(); layouts > 0; --layouts) {
      Layout& layout = body.layouts.emplace_back();
      layout.set = take_count_off(from, most_bonds);
      layout.offset = take_finite_vector(from);
      layout.count = take_count_off(from, most_bonds);
      layout.bonds = take_packed();
      if (layout.count > 0 && layout.set >= track.sets_.size()) broken();
    }
    for (std::uint32_t uses = count(); uses > 0; --uses) {
      Use& use = body.uses.emplace_back();
      use.tick = take_number_off(from);
      use.layout = take_count_off(from, most_bonds);
      if (use.layout >= body.layouts.size()) broken();
      use.uses = take_packed();
    }
  }
  return track;
}

}  // namespace bronvel
