// What the window shows is so, and what is kept is whole: at its edges.
#include <QCloseEvent>
#include <QLabel>
#include <QMessageBox>
#include <QPushButton>
#include <catch2/catch.hpp>
#include <filesystem>

#include "app/build/build_bar.h"
#include "app/kit/dial_scale.h"
#include "app/kit/number_field.h"
#include "app/session_alone.h"
#include "app/window.h"
#include "scene/files/folder.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

QStringList position_fields(Window& w) {
  QStringList texts;
  for (NumberField* field : w.bench.card()->findChildren<NumberField*>())
    if (field->objectName().startsWith("card_position")) texts << field->text();
  return texts;
}

bool answered(Session& session) {
  return wait_until([&] { return session.asked_number() > 0 && !session.asking() && session.last_answer() > 0; });
}

// A take of so many ticks, stopped.
void record(Alone& alone, std::int64_t ticks) {
  alone.session.play();
  REQUIRE(alone.play_ticks(ticks));
  alone.session.stop();
  REQUIRE(wait_until([&] { return alone.session.play_state() == Session::PlayState::editing; }));
}

double last_number(Session& session, const std::string& channel) {
  double value = 0;
  session.with_take([&](const Take& take, TakeReader& reader) {
    value = reader.number(take, channel_called(channel, take.owners()), 0, take.ticks - 1);
  });
  return value;
}

// Answers the box that asks before something is left, by the words on its button.
void answer_leaving(const QString& words, QString* text = nullptr) {
  QTimer::singleShot(50, [words, text] {
    auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    if (!box) return answer_leaving(words, text);
    if (text) *text = box->text();
    for (QAbstractButton* button : box->buttons())
      if (button->text() == words) return button->click();
    box->reject();
  });
}

}  // namespace

TEST_CASE("going on from a moment of a take, the card shows numbers, then and for every body after") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  for (int again = 0; again < 2; ++again) {
    w.click("play");
    REQUIRE(w.play(150));
    w.click("stop");
    session.look_at_tick(70);
    w.click("go_on");
    REQUIRE(wait_until([&] {
      session.refresh();
      return !session.in_past();
    }));
    REQUIRE(w.play(30));
    for (int i = 0; i < 12; ++i) session.refresh();
    for (const char* body : {"fender", "cask", "fender"}) {
      if (!session.scene().find(body)) continue;
      session.choose(std::string(body));
      const QStringList fields = position_fields(w);
      REQUIRE(fields.size() == 3);
      for (const QString& text : fields) CHECK_FALSE(text.isEmpty());
      CHECK_FALSE(w.find<QLineEdit>("card_mass")->text().isEmpty());
    }
    CHECK(position_fields(w)[1].toDouble() == Approx(w.place("fender").y()).margin(0.02));
    w.click("stop");
    session.drop_pending();
  }
}

TEST_CASE("a script that does not load says so while nothing plays: on its line, in the log, at its dials") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  w.click("play");
  REQUIRE(w.play(120));
  w.click("stop");
  const std::size_t takes = session.takes().size();
  const std::string good = session.scripts().at("nudge.lua");
  const std::size_t line = 10;
  std::string bad = good;
  std::size_t at = 0;
  for (std::size_t i = 1; i < line; ++i) at = bad.find('\n', at) + 1;
  bad.insert(bad.find('\n', at), " +");
  session.type_script("nudge.lua", bad);
  // As it is typed.
  CHECK(wait_until([&] { return session.script_fault("nudge.lua").has_value(); }));
  const int marked = session.script_fault("nudge.lua")->line;
  CHECK(marked >= static_cast<int>(line));
  CHECK_FALSE(w.bench.desk()->editor()->annotation(marked - 1).isEmpty());
  // As it is saved.
  REQUIRE(w.bench.save());
  CHECK_THAT(w.log(), Catch::Contains("nudge.lua:1"));
  CHECK_FALSE(session.faults_of("nudge.lua", 3).empty());
  CHECK(w.find<QLabel>("dials_wait")->isVisible());
  auto* dial = w.find<DialScale>("dial_push");
  CHECK_FALSE(dial->isEnabled());
  CHECK_FALSE(session.dials("fender").empty());
  CHECK_THROWS_WITH(session.set_dial("fender", session.dials("fender")[0], 9.0), Catch::Contains("does not load"));
  // What was to be asked again is not shown as an answer.
  for (int i = 0; i < 30; ++i) QTest::qWait(10);
  CHECK(wait_until([&] { return !session.asking(); }));
  CHECK(session.takes().size() == takes);
  CHECK_THAT(w.log(), Catch::Contains("Not asked again"));
  // Mended: all is as before.
  session.type_script("nudge.lua", good);
  REQUIRE(w.bench.save());
  CHECK(session.faults_of("nudge.lua", 3).empty());
  CHECK(w.find<DialScale>("dial_push")->isEnabled());
}

TEST_CASE("a script that is stopped in what was asked is marked in the curves at its moment") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  w.click("play");
  REQUIRE(w.play(120));
  w.click("stop");
  std::string text = session.scripts().at("nudge.lua");
  session.type_script("nudge.lua", text + "\nevery(0.5, function() local none = nil; none.x = 1 end)\n");
  REQUIRE(w.bench.save());
  REQUIRE(answered(session));
  CHECK(wait_until([&] { return w.bench.deck()->takes()->plot()->stops().size() == 1; }));
  CHECK(w.bench.deck()->takes()->plot()->stops()[0] == Approx(0.5).margin(0.02));
  CHECK_THAT(session.shown_take()->label.about, Catch::Contains("stopped at 0.5"));
}

TEST_CASE("asked again at another tick rate, inputs come at their time and the take is as long") {
  Alone alone("cork-hoppers");
  Session& session = alone.session;
  session.play();
  REQUIRE(alone.play_ticks(100));
  const double rate = session.scene().world.tick_rate;
  REQUIRE_FALSE(session.scene().actions.empty());
  const std::string action = session.scene().actions[0].name;
  Input input;
  input.kind = Input::Kind::action;
  input.name = action;
  input.value = 1;
  session.give(input);
  REQUIRE(alone.play_ticks(100));
  session.stop();
  double given = 0, length = 0;
  session.with_take([&](const Take& take, TakeReader&) {
    given = static_cast<double>(take.inputs.back().tick) / take.tick_rate();
    length = take.seconds();
  });
  session.look_at_tick(150);
  const double moment = session.time();
  session.edit("slower", [&](Scene& scene) { scene.world.tick_rate = rate / 4; });
  REQUIRE(answered(session));
  session.with_take([&](const Take& take, TakeReader&) {
    CHECK(take.tick_rate() == rate / 4);
    CHECK(static_cast<double>(take.inputs.back().tick) / take.tick_rate() == Approx(given).margin(2 / rate));
    CHECK(take.seconds() == Approx(length).margin(4 / rate));
  });
  CHECK(session.time() == Approx(moment).margin(4 / rate));
}

TEST_CASE("an answer that is on its way when another scene is opened is not shown there") {
  Alone alone("skerrow-quay");
  record(alone, 60);
  for (int i = 0; i < 5; ++i) {
    alone.session.edit("heavier", [&](Scene& scene) { scene.find("fender")->mass = 3 + i; });
    // On its way: played, but not looked at yet.
    std::this_thread::sleep_for(std::chrono::milliseconds(10 * i));
    alone.session.open_new();
    for (int k = 0; k < 12; ++k) QTest::qWait(10);
    CHECK(alone.session.takes().empty());
    alone.session.open(alone.copy.path() + "/skerrow-quay");
    record(alone, 60);
  }
}

TEST_CASE("what another program saves is taken in at once, in play too, and takes stay") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const fs::path folder = session.path().toStdString();
  w.click("play");
  REQUIRE(w.play(60));
  std::string text = session.scripts().at("nudge.lua");
  write_atomically(folder / "scripts" / "nudge.lua", text + "\nprint(\"from outside\")\n");
  REQUIRE(wait_until([&] { return session.scripts().at("nudge.lua").size() > text.size(); }));
  CHECK(session.play_state() == Session::PlayState::playing);
  CHECK(session.takes().size() == 1);
  REQUIRE(w.play(10));
  CHECK_THAT(w.log(), Catch::Contains("from outside"));
  CHECK(session.saved());
  w.click("stop");
  // The scene, while nothing plays: the take stays, and it is a step that can be undone.
  std::string scene = read_file(folder / "scene.json");
  scene.replace(scene.find("\"mass\": 9", scene.find("\"fender\"")), 9, "\"mass\": 8");
  write_atomically(folder / "scene.json", scene);
  REQUIRE(wait_until([&] { return session.scene().find("fender")->mass == 8; }));
  CHECK(session.takes().size() >= 1);
  CHECK(session.saved());
  session.undo();
  CHECK(session.scene().find("fender")->mass == 9);
}

TEST_CASE("changed here and by another program: both are told, one chooses, and saving writes over nothing unasked") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const fs::path file = fs::path(session.path().toStdString()) / "scripts" / "nudge.lua";
  const std::string text = session.scripts().at("nudge.lua");
  session.type_script("nudge.lua", "-- mine\n" + text);
  write_atomically(file, "-- theirs\n" + text);
  CHECK_FALSE(w.bench.save());
  CHECK(read_file(file) == "-- theirs\n" + text);
  REQUIRE(w.find<QWidget>("notice_yes")->isVisible());
  CHECK(w.find<QLabel>("notice_text")->text().contains("-- mine"));
  CHECK(w.find<QLabel>("notice_text")->text().contains("-- theirs"));
  SECTION("theirs") {
    w.click("notice_yes");
    CHECK(session.scripts().at("nudge.lua") == "-- theirs\n" + text);
    CHECK(session.saved());
  }
  SECTION("mine") {
    w.click("notice_no");
    CHECK(w.bench.save());
    CHECK(read_file(file) == "-- mine\n" + text);
  }
  CHECK_FALSE(session.changes_on_disk().any());
}

TEST_CASE("closing while it plays asks about what was tuned") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  w.click("play");
  REQUIRE(w.play(30));
  session.set_value("fender", *find_property("mass"), Value(5.0));
  SECTION("go back") {
    answer_leaving("Go back");
    CHECK_FALSE(w.bench.close());
    CHECK(session.pending().size() == 1);
    CHECK(w.find<QWidget>("keep_panel")->isVisible());
  }
  SECTION("keep and save") {
    answer_leaving("Keep and save");
    CHECK(w.bench.close());
    CHECK(session.scene().find("fender")->mass == 5);
    CHECK(open_folder(session.path().toStdString()).scene.find("fender")->mass == 5);
  }
}

TEST_CASE("a folder that was moved away is told, and nothing is made in its place") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const fs::path folder = session.path().toStdString();
  fs::rename(folder, folder.string() + "-moved");
  session.edit("heavier", [](Scene& scene) { scene.find("fender")->mass = 4; });
  CHECK_FALSE(w.bench.save());
  CHECK_FALSE(fs::exists(folder));
  CHECK(w.find<QLabel>("notice_text")->text().contains("not there any more"));
  fs::rename(folder.string() + "-moved", folder);
  CHECK(w.bench.save());
}

TEST_CASE("back at what was recorded, no needless take stays") {
  Alone alone("skerrow-quay");
  record(alone, 120);
  alone.session.edit("heavier", [](Scene& scene) { scene.find("fender")->mass = 4; });
  REQUIRE(answered(alone.session));
  REQUIRE(alone.session.takes().size() == 2);
  alone.session.undo();
  CHECK(wait_until([&] { return !alone.session.asking(); }));
  CHECK(alone.session.takes().size() == 1);
  CHECK(alone.session.shown_take()->label.number == 1);
}

TEST_CASE("what was dropped at stop is not set again in what is asked") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  session.play();
  REQUIRE(alone.play_ticks(20));
  session.set_value("fender", *find_property("mass"), Value(30.0));
  REQUIRE(alone.play_ticks(60));
  session.stop();
  REQUIRE(session.pending().size() == 1);
  session.drop_pending();
  session.edit("bouncier", [](Scene& scene) { scene.find("fender")->restitution = 0.3; });
  REQUIRE(answered(session));
  CHECK(last_number(session, "fender.mass") == session.scene().find("fender")->mass);
  CHECK_THAT(session.shown_take()->label.about, Catch::Contains("dropped"));
}

TEST_CASE("a joint that is half drawn ends when its first body is gone") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  session.choose(std::string("fender"));
  QTest::keyClick(w.bench.stage(), Qt::Key_D, Qt::ControlModifier);
  const std::string copy = session.chosen();
  REQUIRE(copy != "fender");
  const std::size_t joints = session.scene().joints.size();
  w.choose_from(w.find<QToolButton>("build_tie"), "hinge");
  REQUIRE(w.bench.stage()->picking());
  w.stage_click(w.bench.stage()->pixel_of(copy).toPoint());
  session.undo();
  CHECK_FALSE(session.scene().find(copy));
  CHECK_FALSE(w.bench.stage()->picking());
  w.stage_click(w.bench.stage()->pixel_of("fender").toPoint());
  CHECK(session.scene().joints.size() == joints);
  CHECK_THAT(w.log(), Catch::Contains("is gone"));
}
