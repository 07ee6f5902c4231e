// The page Ask: a wish is said, its value found, kept, broken and mended, in the window by mouse and keyboard.
#include <filesystem>
#include <fstream>

#include "app/deck/matter_bars.h"
#include "app/deck/sweep_plot.h"
#include "app/deck/wish_list.h"
#include "app/session/wishes.h"
#include "app/window.h"

using namespace bronvel;

namespace {

// All that a wish's round plays is there.
bool answered(Window& w) {
  Wishes& wishes = w.bench.session().wishes();
  return wait_until([&] {
    return wishes.current() && wishes.points().size() >= 21 && wishes.seeds().size() >= 20 && !wishes.rates().empty() &&
           !wishes.matters().all.empty() && wishes.answer(0);
  });
}

// The scene's setting of the dial; 0 where it is as its script declares it.
double push_in(const Scene& scene) {
  const Value value = value_at(scene, dial_place("fender", "nudge.lua", "push"));
  const auto* number = std::get_if<double>(&value);
  return number ? *number : 0;
}

double push_of(Window& w) {
  return push_in(w.bench.session().scene());
}

}  // namespace

TEST_CASE("a value is found for a wish, kept, and the wish is a check that turns red") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  Wishes& wishes = session.wishes();
  session.choose("fender");
  w.click("tab_Ask");
  REQUIRE(answered(w));
  CHECK(wishes.number() == "fender.dials.nudge.lua/push");
  CHECK(wishes.answer(0)->passed());
  CHECK(wishes.seeds().size() == 20);
  CHECK(wishes.rates().size() == 4);

  w.type_number("wish_value", "4");
  CHECK(session.scene().checks[0].value == 4);
  REQUIRE(answered(w));
  CHECK_FALSE(wishes.answer(0)->passed());
  w.click("aim");
  REQUIRE(wait_until([&] { return wishes.found().has_value(); }));
  CHECK(wishes.found()->reached);
  CHECK(wishes.found()->tries.size() <= 15);
  w.click("keep_value");
  CHECK(push_of(w) == Approx(wishes.found() ? wishes.found()->best.values[0] : push_of(w)));
  CHECK(push_of(w) > 4);
  REQUIRE(answered(w));
  CHECK(wishes.answer(0)->passed());

  // Broken by a change, and seen.
  session.set_value("fender", *find_property("mass"), 20.0);
  REQUIRE(answered(w));
  CHECK_FALSE(wishes.answer(0)->passed());
  session.undo();
  session.undo();
  session.undo();
  REQUIRE(answered(w));
  CHECK(session.scene().checks[0].value == 2.25);
  CHECK(wishes.answer(0)->passed());
}

TEST_CASE("a dot is pointed at and becomes a take; a bar turns its number") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  Wishes& wishes = session.wishes();
  w.click("tab_Ask");
  REQUIRE(answered(w));
  auto* plot = w.find<SweepPlot>("sweep_plot");
  const std::size_t point = 18;
  QTest::mouseMove(plot, plot->place_of_point(point).toPoint());
  CHECK(wait_until([&] { return wishes.pointed() == point; }));
  const double measured = wishes.points()[point].measured, value = wishes.points()[point].value;
  QTest::mouseClick(plot, Qt::LeftButton, {}, plot->place_of_point(point).toPoint());
  REQUIRE(wait_until([&] { return session.takes().size() == 1; }));
  CHECK_THAT(session.takes()[0].label.about, Catch::Contains("push of fender"));
  session.with_take([&](const Take& take, TakeReader& reader) {
    const auto start = reader.body(take, "fender", 0), end = reader.body(take, "fender", take.ticks - 1);
    REQUIRE(start);
    REQUIRE(end);
    CHECK(end->pose.position.x() - start->pose.position.x() == Approx(measured).margin(0.02));
    CHECK(push_in(take.folder.scene) == Approx(value));
  });
  // The scene itself is as it was.
  CHECK(push_of(w) == 0);
  CHECK(session.saved());

  session.live();
  w.click("tab_Takes");
  w.click("tab_Ask");
  REQUIRE(answered(w));
  auto* bars = w.find<MatterBars>("matter_bars");
  const QRect row = bars->place_of("fender.mass");
  REQUIRE_FALSE(row.isEmpty());
  QTest::mouseClick(bars, Qt::LeftButton, {}, row.center());
  CHECK(wishes.number() == "fender.mass");
  REQUIRE(answered(w));
  CHECK(wishes.from() == Approx(0.25 * 9));
  w.type_number("sweep_to", "12");
  REQUIRE(answered(w));
  CHECK(wishes.points().back().value == 12);
}

TEST_CASE("wishes are added, turned, removed; what can't be measured is said") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  Wishes& wishes = session.wishes();
  session.choose("fender");
  w.click("tab_Ask");
  auto* list = w.find<WishList>("wish_list");
  QMenu menu;
  list->fill_menu(menu);
  QAction* apex = nullptr;
  for (QAction* action : menu.actions())
    if (action->text() == "apex of fender") apex = action;
  REQUIRE(apex);
  const std::size_t before = wishes.count();
  apex->trigger();
  REQUIRE(wait_until([&] { return wishes.count() == before + 1; }));
  CHECK(wishes.chosen() == before);
  CHECK(session.scene().checks.back().value == Approx(3.32));
  REQUIRE(answered(w));
  // Its sign is clicked: = ≤ ≥ never.
  const QRect row = list->place_of(before);
  for (const Wish::Is is : {Wish::Is::at_most, Wish::Is::at_least, Wish::Is::never}) {
    QTest::mouseClick(list, Qt::LeftButton, {}, QPoint(row.right() - 68 - 54 - 15, row.top() + 12));
    CHECK(session.scene().checks.back().is == is);
  }
  w.click("remove_wish");
  CHECK(wishes.count() == before);
  wishes.add("apex:nobody");
  CHECK_THAT(wishes.fault().toStdString(), Catch::Contains("nobody"));
  CHECK(wishes.count() == before);

  // A script that does not load is said where the wish stands.
  session.type_script("nudge.lua", "function on.tick( end");
  REQUIRE(wait_until([&] { return wishes.answer(0) && !wishes.answer(0)->passed(); }));
  CHECK_THAT(wishes.answer(0)->text(), Catch::Contains("nudge.lua:1"));
}

TEST_CASE("the keys of the take that is looked at go with a new wish, and nothing is asked while it plays") {
  Window w("cork-hoppers");
  Session& session = w.bench.session();
  session.choose("cork_1");
  w.click("play");
  REQUIRE(w.play(60));
  session.key("space", true);
  REQUIRE(w.play(120));
  w.click("tab_Ask");
  CHECK(session.wishes().points().empty());
  w.click("stop");
  session.drop_pending();
  // Another play's keys may lie there under the name: they stay.
  const auto inputs = std::filesystem::path(session.path().toStdString()) / "inputs";
  std::filesystem::create_directories(inputs);
  std::ofstream(inputs / "take_1.jsonl") << "{\"tick\": 1, \"action\": \"hop\", \"value\": 1}\n";
  session.wishes().add("apex:cork_1");
  REQUIRE(wait_until([&] { return session.wishes().count() == 2; }));
  const Wish wish = session.scene().checks[1];
  CHECK(wish.inputs == "inputs/take_1_2.jsonl");
  CHECK(wish.value > 0.5);  // it hopped
  CHECK(std::filesystem::exists(std::filesystem::path(session.path().toStdString()) / wish.inputs));
  // It follows its body's name.
  session.edit("name", [](Scene& scene) { rename_body(scene, "cork_1", "float"); });
  CHECK(session.scene().checks[1].measure == "apex:float");
}

TEST_CASE("the page has room in a small window") {
  Window w("skerrow-quay");
  w.bench.resize(1024, 700);
  w.bench.session().choose("fender");
  w.click("tab_Ask");
  REQUIRE(answered(w));
  QRect before;
  for (const char* name : {"wish_list", "sweep_plot", "rate_list", "matter_bars"}) {
    auto* part = w.find<QWidget>(name);
    const QRect place(part->mapTo(&w.bench, QPoint(0, 0)), part->size());
    CHECK(w.bench.rect().contains(place));
    CHECK(place.left() > before.right());
    CHECK(place.width() >= 120);
    before = place;
  }
}
