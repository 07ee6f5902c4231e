// Letters and colours of causes.
#include "app/kit/cause_look.h"

#include "app/kit/theme.h"

namespace bronvel {
namespace {

enum class Family { weight, contact, friction, water, air, joint, script, other };

Family family_of(const NamedCause& cause) {
  switch (cause.cause) {
    case Cause::weight:
    case Cause::pull:
      return Family::weight;
    case Cause::normal:
    case Cause::hit:
    case Cause::overlap:
      return Family::contact;
    case Cause::friction:
    case Cause::rolling:
    case Cause::torsion:
    case Cause::hit_friction:
      return Family::friction;
    case Cause::buoyancy:
    case Cause::water_drag:
      return Family::water;
    case Cause::air_drag:
    case Cause::damping:
      return Family::air;
    case Cause::joint:
    case Cause::limit:
    case Cause::motor:
    case Cause::spring:
      return Family::joint;
    case Cause::force:
    case Cause::impulse:
    case Cause::set_velocity:
    case Cause::placed:
      return Family::script;
    default:
      return Family::other;
  }
}

}  // namespace

QString cause_letter(const NamedCause& cause) {
  switch (cause.cause) {
    case Cause::weight:
      return "W";
    case Cause::pull:
      return "P";
    case Cause::buoyancy:
      return "B";
    case Cause::water_drag:
      return "Q";
    case Cause::air_drag:
      return "A";
    case Cause::damping:
      return "D";
    case Cause::normal:
      return "N";
    case Cause::overlap:
      return "O";
    case Cause::friction:
      return "F";
    case Cause::rolling:
      return "R";
    case Cause::torsion:
      return "T";
    case Cause::hit:
      return "H";
    case Cause::hit_friction:
      return "HF";
    case Cause::joint:
      return "J";
    case Cause::limit:
      return "L";
    case Cause::motor:
      return "M";
    case Cause::spring:
      return "E";
    case Cause::force:
    case Cause::impulse:
    case Cause::set_velocity:
    case Cause::placed:
      return cause.script.empty() ? "X" : "S";
    default:
      return "–";
  }
}

QColor cause_colour(const NamedCause& cause) {
  const bool dark = theme::sheet.lightness() < 128;
  switch (family_of(cause)) {
    case Family::weight:
      return dark ? QColor(0x9F, 0xB3, 0xC8) : QColor(0x4F, 0x62, 0x78);
    case Family::contact:
      return dark ? QColor(0xE0, 0xB0, 0x58) : QColor(0x85, 0x5C, 0x0C);
    case Family::friction:
      return dark ? QColor(0xE8, 0x8F, 0x6B) : QColor(0x9C, 0x43, 0x1F);
    case Family::water:
      return dark ? QColor(0x58, 0xBD, 0xC2) : QColor(0x0E, 0x6E, 0x74);
    case Family::air:
      return dark ? QColor(0x7F, 0xB8, 0xE6) : QColor(0x2B, 0x6C, 0xA0);
    case Family::joint:
      return dark ? QColor(0xD7, 0x9A, 0xC1) : QColor(0x7A, 0x35, 0x5F);
    case Family::script:
      return theme::ink;
    case Family::other:
      break;
  }
  return theme::faint_ink;
}

}  // namespace bronvel
