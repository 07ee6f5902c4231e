// What a world can be asked about where its bodies are, and what it answers.
#pragma once

#include <cstdint>
#include <optional>

#include "dynamics/settings/body.h"
#include "geometry/queries/ray.h"

namespace bronvel {

/// A body met by a ray.
struct WorldRayHit {
  BodyHandle body;
  RayHit hit;
};

/// Which bodies a question is about.
struct QueryFilter {
  std::uint32_t groups = 0xFFFFFFFFU;  ///< bits: only bodies in one of these groups
  BodyHandle except{};                 ///< not this one
  bool solid_only = false;             ///< not those that only sense
};

/// How near two things are, or where they first meet.
struct WorldNearest {
  BodyHandle body;
  double distance = 0;          ///< m; negative where they overlap
  Vec3 point = Vec3::Zero();    ///< on the body's surface, scene frame, m
  Vec3 normal = Vec3::Unit(1);  ///< outward from the body, unit
};

/// How much a query had to go through.
struct QueryWork {
  std::size_t visited = 0;   ///< bodies whose boxes lay in its way
  std::size_t measured = 0;  ///< bodies, and parts of composite ones, that were measured
};

/// What came of moving a body until it hits.
struct WorldAdvance {
  Vec3 moved = Vec3::Zero();        ///< m
  std::optional<WorldNearest> hit;  ///< the first body met; its `distance` is how far the way was free, m
  QueryWork work;
};

}  // namespace bronvel
