// Breaking in scene files: written and read back, and refused where it makes no sense.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "scene/files/read.h"
#include "scene/files/write.h"
#include "script/running/running_scene.h"

using namespace bronvel;

namespace {

Body pane() {
  Body body;
  body.name = "pane";
  body.shape = Box{{2, 1.5, 0.04}};
  body.breaking.into = Breaking::Into::planes;
  body.breaking.planes = {{Vec3::Unit(0), 0.25}, {Vec3(0.6, 0.8, 0), -0.125}};
  body.breaking.near = Vec3(0.1, 0.2, 0);
  body.breaking.tension = 3e7;
  body.breaking.held = HeldPieces::listed;
  body.breaking.held_parts = {0, 2};
  body.breaking.debris_age = 4;
  body.breaking.parts_scripted = true;
  return body;
}

std::string fault_of(const std::string& inner) {
  try {
    static_cast<void>(
        read_scene("{\"bronvel\": 1, \"bodies\": [{\"name\": \"b\", \"shape\": {\"box\": {\"size\": [1, 1, "
                   "1]}}, " +
                       inner + "}]}",
                   "scene.json", {}));
  } catch (const Error& e) {
    return e.what();
  }
  return "";
}

}  // namespace

TEST_CASE("all that says how a body breaks comes back from its file") {
  Scene scene;
  scene.bodies = {pane()};
  const std::string text = write_scene(scene);
  const Scene back = read_scene(text, "scene.json", {});
  CHECK(back == scene);
  CHECK(write_scene(back) == text);
}

TEST_CASE("breaking that makes no sense is refused, with the reason") {
  CHECK_THAT(fault_of("\"breaks_into\": \"crumbs\""), Catch::Contains("cells"));
  CHECK_THAT(fault_of("\"breaks_into\": \"cells\", \"pieces\": 5000"), Catch::Contains("2000"));
  CHECK_THAT(fault_of("\"breaks_into\": \"bricks\", \"brick_length\": 0.01, \"brick_height\": 0.01"),
             Catch::Contains("5,000"));
  CHECK_THAT(fault_of("\"breaks_into\": \"planes\", \"break_planes\": [{\"normal\": [1, 1, 0], \"offset\": 0}]"),
             Catch::Contains("length 1"));
  CHECK_THAT(fault_of("\"breaks_into\": \"cells\", \"held_pieces\": \"listed\", \"held_parts\": [99]"),
             Catch::Contains("99"));
  CHECK_THAT(fault_of("\"tension_strength\": 0"), Catch::Contains("above 0"));
  CHECK(fault_of("\"breaks_into\": \"cells\"").empty());
}

TEST_CASE("what is held stands still: bottom, top, ends, rim and named parts") {
  const auto held = [](HeldPieces which) {
    Body wall;
    wall.name = "wall";
    wall.shape = Box{{4, 2, 0.4}};
    wall.breaking.into = Breaking::Into::bricks;
    wall.breaking.held = which;
    std::size_t count = 0;
    const std::shared_ptr<const PieceSet> set = pieces_of(wall.shape, wall.breaking);
    for (const char each : set->anchored) count += each != 0 ? 1 : 0;
    Scene scene;
    scene.bodies = {wall};
    const RunningScene running(scene);
    CHECK((running.scene.bodies[0].kind == MotionKind::fixed) == (count > 0));
    return count;
  };
  const std::size_t bottom = held(HeldPieces::bottom), top = held(HeldPieces::top), ends = held(HeldPieces::ends);
  CHECK(held(HeldPieces::none) == 0);
  CHECK(bottom == 8);
  CHECK(top >= 8);
  CHECK(ends == 16);
  CHECK(held(HeldPieces::rim) == bottom + top + ends - 4);
}

TEST_CASE("energy pays for pieces by the toughness") {
  CHECK(pieces_for_energy(0, 1, 100) == 2);
  CHECK(pieces_for_energy(1e12, 1, 100) == 200);
  // 27 cubes of a cube of 1 m³ share 6 m² of faces.
  CHECK(pieces_for_energy(600.01, 1, 100) == 27);
  CHECK(pieces_for_energy(600.01, 1, 200) < 27);
}
