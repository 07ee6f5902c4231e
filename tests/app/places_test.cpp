// Words over the stage keep clear of one another, and numbers fit their fields.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/stage/pencil.h"
#include "app/window.h"

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

TEST_CASE("a number that does not fit loses digits, never its sign or its size") {
  const QFontMetrics font(theme::numbers(12));
  const auto of = [&](double value, const char* as_wide_as) {
    return fitting_number(value, font, font.horizontalAdvance(as_wide_as)).toStdString();
  };
  CHECK(of(-0.3452, "0.000") == "-0.35");
  CHECK(of(-88.57, "0.000") == "-88.6");
  CHECK(of(-1234.6, "0.000") == "-1235");
  CHECK(of(0.02872, "0.000") == "0.029");
  CHECK(of(0.0001, "0.000") == "1e-4");
  CHECK(of(-0.00345, "0.000") == "-3e-3");
  CHECK(of(1.5792, "0.000") == "1.579");
  CHECK(of(0, "0.0") == "0.0");
  CHECK(of(-3.25e8, "0.000") == "-3e8");
  std::mt19937 random(3);
  for (int i = 0; i < 2000; ++i) {
    const double value =
        std::uniform_real_distribution<>(-1, 1)(random) * std::pow(10, static_cast<int>(random() % 14) - 6);
    const double shown = fitting_number(value, font, font.horizontalAdvance("-0e-0")).toDouble();
    CHECK(shown * value > 0);
    CHECK(std::abs(shown - value) <= 0.5 * std::abs(value));
  }
}

TEST_CASE("the card shows whole numbers in its narrow fields") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  session.choose("fender");
  session.edit("elsewhere", [](Scene& scene) { scene.find("fender")->position = {-12.3456, -0.3452, -88.57}; });
  int seen = 0;
  for (const NumberField* field : w.bench.card()->findChildren<NumberField*>()) {
    if (!field->isVisible()) continue;
    ++seen;
    CAPTURE(field->objectName().toStdString(), field->text().toStdString());
    CHECK(field->fontMetrics().horizontalAdvance(field->text()) <= field->width() - (field->width() < 60 ? 12 : 18));
  }
  CHECK(seen > 10);
}
