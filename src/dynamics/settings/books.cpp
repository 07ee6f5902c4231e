// Words of causes.
#include "dynamics/settings/books.h"

namespace bronvel {

std::string cause_word(Cause cause) {
  switch (cause) {
    case Cause::weight:
      return "weight";
    case Cause::pull:
      return "pull";
    case Cause::buoyancy:
      return "buoyancy";
    case Cause::water_drag:
      return "water drag";
    case Cause::air_drag:
      return "air drag";
    case Cause::damping:
      return "damping";
    case Cause::normal:
      return "contact";
    case Cause::friction:
      return "friction";
    case Cause::rolling:
      return "rolling friction";
    case Cause::torsion:
      return "torsional friction";
    case Cause::overlap:
      return "overlap";
    case Cause::hit:
      return "hit";
    case Cause::hit_friction:
      return "hit friction";
    case Cause::joint:
      return "joint";
    case Cause::limit:
      return "limit";
    case Cause::motor:
      return "motor";
    case Cause::spring:
      return "spring";
    case Cause::force:
      return "force";
    case Cause::impulse:
      return "impulse";
    case Cause::set_velocity:
      return "velocity set";
    case Cause::placed:
      return "placed";
    case Cause::lock:
      return "locked axis";
    case Cause::breaking:
      return "breaking";
    case Cause::sleep:
      return "falling asleep";
    case Cause::solver:
      break;
  }
  return "solver";
}

}  // namespace bronvel
