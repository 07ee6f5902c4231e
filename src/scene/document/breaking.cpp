// From a body's breaking to pieces and bonds.
#include "scene/document/breaking.h"

#include <algorithm>
#include <tuple>

#include "geometry/base/error.h"
#include "geometry/shapes/parts.h"
#include "geometry/shapes/shape.h"

namespace bronvel {
namespace {

// Pieces this near to a side of the body's box, as a share of its extent there, are at that side.
constexpr double at_side = 1e-3;

// Which pieces touch the sides of the body that are held.
std::vector<char> held_of(const Shape& shape, const std::vector<Hull>& pieces, const Breaking& breaking) {
  std::vector<char> held(pieces.size(), 0);
  if (breaking.held == HeldPieces::none) return held;
  if (breaking.held == HeldPieces::listed) {
    for (const std::uint32_t piece : breaking.held_parts) {
      if (piece >= held.size())
        throw Error("held_parts", "names piece " + std::to_string(piece) + " of " + std::to_string(held.size()));
      held[piece] = 1;
    }
    return held;
  }
  const Bounds all = shape_bounds(shape, Pose{});
  const Vec3 extent = all.high - all.low;
  int longest = 0, thinnest = 0;
  for (int i = 1; i < 3; ++i) {
    if (extent[i] > extent[longest]) longest = i;
    if (extent[i] < extent[thinnest]) thinnest = i;
  }
  const auto low = [&](const Bounds& b, int axis) { return b.low[axis] - all.low[axis] < at_side * extent[axis]; };
  const auto high = [&](const Bounds& b, int axis) { return all.high[axis] - b.high[axis] < at_side * extent[axis]; };
  for (std::size_t i = 0; i < pieces.size(); ++i) {
    const Bounds b = shape_bounds(pieces[i], Pose{});
    bool here = false;
    if (breaking.held == HeldPieces::bottom) here = low(b, 1);
    if (breaking.held == HeldPieces::top) here = high(b, 1);
    if (breaking.held == HeldPieces::ends) here = low(b, longest) || high(b, longest);
    if (breaking.held == HeldPieces::rim)
      for (int axis = 0; axis < 3; ++axis) here = here || (axis != thinnest && (low(b, axis) || high(b, axis)));
    held[i] = here ? 1 : 0;
  }
  return held;
}

}  // namespace

bool operator==(const Breaking& a, const Breaking& b) {
  const auto numbers = [](const Breaking& x) {
    return std::tie(x.into, x.pieces, x.seed, x.near, x.crowding, x.brick_length, x.brick_height, x.plank_length,
                    x.rings, x.spokes, x.unevenness, x.tension, x.shear, x.impulse, x.toughness, x.held, x.held_parts,
                    x.merge_below, x.debris_below, x.debris_age, x.debris_most, x.parts_scripted);
  };
  const auto same_plane = [](const Plane& p, const Plane& q) { return p.normal == q.normal && p.offset == q.offset; };
  return numbers(a) == numbers(b) &&
         std::equal(a.planes.begin(), a.planes.end(), b.planes.begin(), b.planes.end(), same_plane);
}

const std::vector<std::string>& held_words() {
  static const std::vector<std::string> words{"none", "bottom", "top", "ends", "rim", "listed"};
  return words;
}

const std::vector<std::string>& into_words() {
  static const std::vector<std::string> words = [] {
    std::vector<std::string> all{"nothing"};
    all.insert(all.end(), piece_words().begin(), piece_words().end());
    return all;
  }();
  return words;
}

PieceRecipe recipe_of(const Breaking& breaking) {
  PieceRecipe recipe;
  recipe.kind = static_cast<PieceRecipe::Kind>(static_cast<int>(breaking.into) - 1);
  recipe.count = static_cast<int>(std::lround(breaking.pieces));
  recipe.seed = static_cast<std::uint64_t>(breaking.seed);
  recipe.near = breaking.near;
  recipe.crowding = breaking.crowding;
  recipe.length = breaking.brick_length;
  recipe.height = breaking.brick_height;
  recipe.plank_length = breaking.plank_length;
  recipe.rings = static_cast<int>(std::lround(breaking.rings));
  recipe.spokes = static_cast<int>(std::lround(breaking.spokes));
  recipe.unevenness = breaking.unevenness;
  recipe.planes = breaking.planes;
  return recipe;
}

bool same_pieces(const Breaking& a, const Breaking& b) {
  Breaking like = b;
  like.tension = a.tension, like.shear = a.shear, like.impulse = a.impulse, like.toughness = a.toughness;
  like.merge_below = a.merge_below, like.debris_below = a.debris_below, like.debris_age = a.debris_age;
  like.debris_most = a.debris_most, like.parts_scripted = a.parts_scripted;
  return a == like;
}

struct Breaking::Made {
  std::mutex mutex;  // plays of one scene may start side by side
  Shape shape;
  Breaking of;
  std::shared_ptr<const PieceSet> pieces;
};

namespace {

std::shared_ptr<const PieceSet> make_pieces_of(const Shape& shape, const Breaking& breaking) {
  std::vector<double> densities;
  std::vector<Hull> pieces = make_pieces(shape, recipe_of(breaking), &densities);
  std::vector<char> held = held_of(shape, pieces, breaking);
  const Bounds all = shape_bounds(shape, Pose{});
  // Parts that were put together by hand may stand a hair apart.
  const double gap = breaking.into == Breaking::Into::parts ? 1e-3 * (all.high - all.low).maxCoeff() : 0;
  return make_piece_set(std::move(pieces), std::move(held), std::move(densities), gap);
}

}  // namespace

std::shared_ptr<const PieceSet> pieces_of(const Shape& shape, const Breaking& breaking) {
  if (!breaking.made) breaking.made = std::make_shared<Breaking::Made>();
  Breaking::Made& made = *breaking.made;
  const std::lock_guard<std::mutex> lock(made.mutex);
  if (made.pieces && made.shape == shape && same_pieces(made.of, breaking)) return made.pieces;
  made.pieces = make_pieces_of(shape, breaking);
  made.shape = shape;
  made.of = breaking;
  made.of.made.reset();  // or it would hold itself
  return made.pieces;
}

bool holds_all(const PieceSet& pieces) {
  return std::find(pieces.anchored.begin(), pieces.anchored.end(), 0) == pieces.anchored.end();
}

BondStrength strength_of(const Breaking& breaking) {
  return {breaking.tension, breaking.shear, breaking.impulse};
}

BreakSettings settings_of(const Shape& shape, const Breaking& breaking) {
  return {pieces_of(shape, breaking), strength_of(breaking), breaking.merge_below};
}

std::string breaking_fault(const Shape& shape, const Breaking& breaking) {
  if (breaking.into == Breaking::Into::nothing) return "";
  try {
    static_cast<void>(pieces_of(shape, breaking));
  } catch (const Error& e) {
    return e.what();
  }
  return "";
}

int pieces_expected(const Shape& shape, const Breaking& breaking) {
  constexpr double most = 5000;
  double count = 1;
  switch (breaking.into) {
    case Breaking::Into::nothing:
      return 0;
    case Breaking::Into::cells:
    case Breaking::Into::planks:
      count = breaking.pieces;
      break;
    case Breaking::Into::bricks: {
      const Bounds all = shape_bounds(shape, Pose{});
      const Vec3 size = all.high - all.low;
      count = (1 + std::max(size.x(), size.z()) / breaking.brick_length) * (1 + size.y() / breaking.brick_height);
      break;
    }
    case Breaking::Into::pane:
      count = breaking.rings * breaking.spokes;
      break;
    case Breaking::Into::planes:
      count = std::pow(2, std::min<double>(static_cast<double>(breaking.planes.size()), 12));
      break;
    case Breaking::Into::parts:
      count = static_cast<double>(part_count(shape));
      break;
  }
  return static_cast<int>(std::clamp(count, 1.0, most));
}

int pieces_for_energy(double energy, double volume, double toughness) {
  const double area = energy / toughness;
  const double across = 1 + area / (3 * std::cbrt(volume * volume));
  return static_cast<int>(std::clamp(across * across * across, 2.0, static_cast<double>(most_pieces_for_energy)));
}

}  // namespace bronvel
