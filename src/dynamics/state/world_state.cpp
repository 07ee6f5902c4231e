// Finding a body by its handle.
#include "dynamics/state/world_state.h"

#include "geometry/base/error.h"

namespace bronvel {

std::uint32_t WorldState::index_of(BodyHandle body) const {
  if (body.index >= records.size() || !records[body.index].alive || records[body.index].generation != body.generation)
    throw Error("world", "the body is gone", "it was removed; look it up again");
  return body.index;
}

}  // namespace bronvel
