// Ticks that take long, and slots that throw: the window answers, and nothing ends.
#include <QToolButton>

#include "app/application.h"
#include "app/kit/dial_scale.h"
#include "app/window.h"

using namespace bronvel;

namespace {

// A scene whose every tick takes long: scripts that count, each within its budget.
void make_slow(Session& session, int bodies) {
  session.edit("slow", [&](Scene& scene) {
    for (int i = 0; i < bodies; ++i) {
      Body body;
      body.name = "post_" + std::to_string(i);
      body.position = {2.0 * i, 1, 0};
      body.kind = MotionKind::fixed;
      scene.bodies.push_back(body);
    }
  });
  session.add_script("count.lua", "function on.tick() for i = 1, 1500000 do end end", "post_0");
  for (int i = 1; i < bodies; ++i) session.put_script("count.lua", "post_" + std::to_string(i));
}

}  // namespace

TEST_CASE("in a tick that takes long, pause and stop answer at once and count from its end") {
  Window w("");
  Session& session = w.bench.session();
  make_slow(session, 60);
  const auto button = [&](const char* name) { return w.find<QToolButton>(name); };
  QTest::mouseClick(button("play"), Qt::LeftButton);
  w.hand.advance(1);
  REQUIRE(wait_until([&] { return session.long_tick() > 0; }));
  QTest::mouseClick(button("pause"), Qt::LeftButton);
  CHECK(session.play_state() == Session::PlayState::paused);
  // What is set now counts at the tick's end.
  session.set_value("post_0", *find_property("mass"), 3.0);
  REQUIRE(wait_until([&] { return session.long_tick() == 0 && session.tick() > 0; }));
  const std::int64_t paused_at = session.tick();
  QTest::mouseClick(button("play"), Qt::LeftButton);
  w.hand.advance(1);
  REQUIRE(wait_until([&] { return session.long_tick() > 0; }));
  QTest::mouseClick(button("stop"), Qt::LeftButton);
  CHECK(wait_until([&] { return session.play_state() == Session::PlayState::editing; }));
  CHECK(session.takes().size() == 1);
  CHECK(paused_at >= 1);
}

TEST_CASE("a second stop gives a play up whose tick does not end, and another can begin") {
  Window w("");
  Session& session = w.bench.session();
  make_slow(session, 120);
  QTest::mouseClick(w.find<QToolButton>("play"), Qt::LeftButton);
  w.hand.advance(1);
  REQUIRE(wait_until([&] { return session.long_tick() > 0; }));
  QTest::mouseClick(w.find<QToolButton>("stop"), Qt::LeftButton);
  REQUIRE(session.stopping());
  QTest::mouseClick(w.find<QToolButton>("stop"), Qt::LeftButton);
  CHECK(session.play_state() == Session::PlayState::editing);
  CHECK_FALSE(session.stopping());
  CHECK(session.log_lines().back().text == "the play was given up: this tick did not end");
  CHECK(wait_until([] { return !Runner::any_given_up(); }));
}

TEST_CASE("what a slot throws is said and kept in the log; the bench goes on") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  QTimer::singleShot(0, &w.bench, [] { throw std::runtime_error("the disk has gone fishing"); });
  REQUIRE(wait_until(
      [&] { return !session.log_lines().empty() && session.log_lines().back().text == "the disk has gone fishing"; }));
  session.play();
  CHECK(session.play_state() == Session::PlayState::playing);
  session.stop();
  CHECK(dynamic_cast<Application*>(qApp)->take_unexpected() == 1);
}

TEST_CASE("an edit that could not be opened again is refused with words, and nothing is changed") {
  Window w("three-bells");
  Session& session = w.bench.session();
  const Scene before = session.scene();
  const auto meshed = std::find_if(before.bodies.begin(), before.bodies.end(),
                                   [](const Body& b) { return std::holds_alternative<Mesh>(b.shape); });
  if (meshed != before.bodies.end())
    CHECK_THROWS(session.set_value(meshed->name, *find_property("kind"), std::string("dynamic")));
  CHECK_THROWS(session.edit("twice", [](Scene& scene) {
    scene.actions.push_back({"ring", {"space"}, {}});
    scene.actions.push_back({"ring", {"enter"}, {}});
  }));
  CHECK(session.scene() == before);
  CHECK(session.saved());
}

TEST_CASE("two scripts of a body with a dial of the same name have a dial each") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const std::string other = session.add_script("other.lua", "dials { push = { 2 } }\n", "fender");
  session.save();
  session.choose("fender");
  int dials = 0;
  for (const DialScale* scale : w.bench.desk()->findChildren<DialScale*>())
    dials += scale->objectName().startsWith("dial_push") ? 1 : 0;
  CHECK(dials == 2);
  const double before = number_of(session.dials("fender").front().value);
  w.type_number("dial_number_push · " + QString::fromStdString(other).chopped(4), "3");
  for (const Dial& dial : session.dials("fender"))
    if (dial.name == "push") CHECK(number_of(dial.value) == (dial.script == other ? 3 : before));
  // And in play, where what is turned is kept for the replay.
  session.play();
  REQUIRE(w.play(5));
  w.type_number("dial_number_push · " + QString::fromStdString(other).chopped(4), "4");
  REQUIRE(w.play(5));
  for (const Dial& dial : session.dials("fender"))
    if (dial.name == "push") CHECK(number_of(dial.value) == (dial.script == other ? 4 : before));
  session.stop();
  REQUIRE(session.pending().size() == 1);
  CHECK(session.pending()[0].place.script == other);
}
