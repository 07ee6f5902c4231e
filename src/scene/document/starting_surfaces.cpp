// Values of the starting surfaces, each stuff against itself, rounded to what a hand can tell apart.
#include "scene/document/starting_surfaces.h"

namespace bronvel {
namespace {

struct Entry {
  const char* name;
  Surface surface;
  const char* source;
};

constexpr Combine average = Combine::average, minimum = Combine::minimum, maximum = Combine::maximum;

// static, dynamic, rolling friction, restitution, then how friction and restitution combine.
const Entry entries[] = {
    {"oak",
     {0.62, 0.48, 0.005, 0.5, average, average},
     "friction of oak on oak along the grain: Marks' Standard Handbook for Mechanical Engineers; restitution of wood "
     "about one half: Goldsmith, Impact (1960)"},
    {"cork",
     {0.6, 0.5, 0.01, 0.5, average, average},
     "friction between 0.2 and 1 with load and grain: Gibson, Easterling and Ashby (1981); restitution a little below "
     "5/9: Newton, Principia, scholium to the laws of motion"},
    {"wet_rope",
     {0.4, 0.33, 0.05, 0.05, average, minimum},
     "hemp on oak, wet, 0.33 in motion: Morin's tables as given by Rankine; restitution estimated"},
    {"granite",
     {0.85, 0.7, 0.002, 0.6, average, average},
     "rock on rock at low pressure 0.85: Byerlee (1978); sliding and restitution estimated"},
    {"iron",
     {0.74, 0.57, 0.001, 0.56, average, average},
     "mild steel on mild steel, dry: Marks' Standard Handbook; restitution about 5/9: Newton, Principia"},
    {"ice",
     {0.1, 0.03, 0.001, 0.3, minimum, average},
     "ice on ice near 0 °C: Bowden and Tabor, The Friction and Lubrication of Solids (1950); the slippery one decides; "
     "restitution estimated"},
    {"rubber",
     {1.0, 0.8, 0.015, 0.75, maximum, maximum},
     "rubber on solids 1 and more: Bowden and Tabor (1950); the gripping one decides; restitution of soft rubber "
     "estimated"},
    {"slate",
     {0.53, 0.47, 0.002, 0.5, average, average},
     "basic friction angle of slate 25 to 30 degrees: Barton and Choubey (1977); restitution estimated"},
    {"wool",
     {0.4, 0.3, 0.08, 0.1, average, minimum},
     "wool on wool, with and against its scales, 0.2 to 0.4: Makinson (1948); restitution of loose cloth estimated "
     "(a tightly wound ball gives 5/9: Newton, Principia)"},
};

}  // namespace

const std::map<std::string, SceneSurface>& starting_surfaces() {
  static const std::map<std::string, SceneSurface> all = [] {
    std::map<std::string, SceneSurface> made;
    for (const Entry& entry : entries) made[entry.name] = entry.surface;
    return made;
  }();
  return all;
}

std::string source_of(const std::string& surface) {
  for (const Entry& entry : entries)
    if (surface == entry.name) return entry.source;
  return "";
}

}  // namespace bronvel
