// Words over the stage keep clear of one another.
#include <catch2/catch.hpp>

#include "app/stage/pencil.h"

using namespace bronvel;

TEST_CASE("words go to the nearest row that is free, and stay where none is") {
  TakenPlaces taken;
  const QRectF box(100, 100, 80, 18);
  CHECK(taken.free_near(box) == box);
  taken.take(box);
  const QRectF below = taken.free_near(box);
  CHECK(below == box.translated(0, 20));
  taken.take(below);
  const QRectF above = taken.free_near(box);
  CHECK(above == box.translated(0, -20));
  // What is beside it does not matter.
  CHECK(taken.free_near(box.translated(200, 0)) == box.translated(200, 0));
  // A wall of words: nothing near is free.
  taken.take({0, -500, 500, 1200});
  CHECK(taken.free_near(box) == box);
}
