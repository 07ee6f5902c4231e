// Takes in the real window: gone back in, gone on from, asked again, kept.
#include <QDropEvent>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include <filesystem>

#include "app/kit/dial_scale.h"
#include "app/kit/lane_drag.h"
#include "app/kit/theme.h"
#include "app/stage/hit_sheet.h"
#include "app/window.h"

using namespace bronvel;

namespace {

struct TakeWindow : Window {
  using Window::Window;
  Session& session() { return bench.session(); }
  LanePlot* lanes() { return bench.deck()->takes()->plot(); }
  /// A press in the lanes at that moment.
  void press_lanes(double seconds, Qt::KeyboardModifiers keys = {}) {
    settle();
    QTest::mouseClick(lanes(), Qt::LeftButton, keys,
                      QPoint(static_cast<int>(lanes()->pixel_of_time(seconds) + 0.5), lanes()->height() - 40));
  }
  void settle() {
    for (int i = 0; i < 6; ++i) QTest::qWait(10);
  }
  bool answered() {
    return wait_until(
        [&] { return session().asked_number() > 0 && !session().asking() && session().last_answer() > 0; });
  }
  /// Drops what would be dragged from there onto the lanes.
  void drop_channel(const QString& channel) {
    QMimeData data;
    data.setData(lane_mime, channel.toUtf8());
    const QPointF at(lanes()->width() / 2.0, 60);
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(lanes(), &enter);
    CHECK(enter.isAccepted());
    QDropEvent drop(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(lanes(), &drop);
  }
};

double number_at(const QString& text) {
  QString digits = text;
  return digits.replace("−", "-").section(' ', 0, 0).toDouble();
}

}  // namespace

TEST_CASE("a take is gone back in: stage, card and head show the moment, by mouse and by keys; live brings one back") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(150));
  const Vec3 now = w.place("fender");
  w.press_lanes(0.5);
  REQUIRE(w.session().in_past());
  const std::int64_t there = w.session().tick();
  CHECK(there == Approx(60).margin(1));
  const double fallen = 3.32 - 0.5 * 9.81 * std::pow(static_cast<double>(there) / 120, 2);
  CHECK(w.place("fender").y() == Approx(fallen).margin(0.02));
  CHECK(w.find<QLabel>("now_height")->text().toDouble() == Approx(w.place("fender").y()).margin(0.006));
  CHECK(w.find<QWidget>("to_live")->isVisible());

  QTest::keyClick(w.lanes(), Qt::Key_Right);
  CHECK(w.session().tick() == there + 1);
  QTest::keyClick(w.lanes(), Qt::Key_Left, Qt::ShiftModifier);
  CHECK(w.session().tick() == there - 9);
  QTest::keyClick(w.lanes(), Qt::Key_Home);
  CHECK(w.session().tick() == 0);
  CHECK(w.place("fender").y() == Approx(w.session().scene().find("fender")->position.y()));
  QTest::keyClick(w.lanes(), Qt::Key_End);
  CHECK(w.session().tick() >= 150);
  CHECK((w.place("fender") - now).norm() < 0.5);
  QTest::keyClick(w.bench.stage(), Qt::Key_Left);
  CHECK(w.session().tick() >= 149);

  // The play goes on behind.
  w.press_lanes(0.25);
  REQUIRE(wait_until([&] {
    w.hand.advance(0.05);
    w.session().refresh();
    std::int64_t ticks = 0;
    w.session().with_take([&](const Take& take, TakeReader&) { ticks = take.ticks; });
    return ticks > 200;
  }));
  CHECK(w.session().tick() == Approx(30).margin(1));
  w.click("to_live");
  CHECK_FALSE(w.session().in_past());
  CHECK(w.session().tick() > 200);
  w.click("stop");
  CHECK(w.session().tick() == 0);
  w.press_lanes(1.0);
  CHECK(w.session().tick() == Approx(120).margin(1));
  QTest::keyClick(w.bench.stage(), Qt::Key_Escape);
  CHECK(w.session().building());
}

TEST_CASE("a hit tells what decided it; a press on its mark in the lanes or on the stage opens its sheet") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(200));
  w.click("stop");
  std::int64_t hit_tick = 0;
  Vec3 hit_point;
  w.session().with_take([&](const Take& take, TakeReader&) {
    for (const PlayEvent& e : take.events)
      if (hit_tick == 0 && e.phase == ContactPhase::touch && (e.a == "fender" || e.b == "fender"))
        hit_tick = e.tick, hit_point = e.point;
  });
  REQUIRE(hit_tick > 0);
  w.settle();
  const QPoint mark(static_cast<int>(w.lanes()->pixel_of_time(static_cast<double>(hit_tick) / 120) + 0.5), 18);
  QTest::mouseClick(w.lanes(), Qt::LeftButton, {}, mark);
  CHECK(w.session().tick() == hit_tick);
  HitSheet* sheet = w.bench.hit_sheet();
  REQUIRE(sheet->isVisible());
  REQUIRE(sheet->hit());
  const HitReport& hit = *sheet->hit();
  const double closing = 9.81 * static_cast<double>(hit_tick) / 120;
  CHECK(hit.closing_speed == Approx(closing).epsilon(0.1));
  CHECK(hit.pair.restitution > 0);
  CHECK(hit.points == 1);
  const HitSide& fender = hit.a.body == "fender" ? hit.a : hit.b;
  CHECK(fender.surface == w.session().scene().find("fender")->surface);
  CHECK(fender.energy_before > fender.energy_after);
  QString all;
  for (QLabel* label : sheet->findChildren<QLabel*>()) all += label->text() + "\n";
  CHECK(all.contains("closing speed"));
  CHECK(all.contains(QString::fromStdString(fender.surface)));
  // A surface's number is a link to its very cell.
  for (QLabel* label : sheet->findChildren<QLabel*>())
    if (label->text().contains("surface:")) {
      emit label->linkActivated("surface:" + QString::fromStdString(fender.surface) + ":restitution");
      break;
    }
  CHECK_FALSE(w.lanes()->isVisible());
  auto* surfaces = w.find<QTreeWidget>("surfaces");
  REQUIRE(surfaces->currentItem());
  CHECK(surfaces->currentItem()->text(0).toStdString() == fender.surface);
  CHECK(surfaces->currentColumn() == 4);
  // A body's own number, to its field on the card.
  for (QLabel* label : sheet->findChildren<QLabel*>())
    if (label->text().contains("surface:")) {
      emit label->linkActivated("body:crate_top:friction");
      break;
    }
  CHECK(w.session().chosen() == "crate_top");
  REQUIRE(QApplication::focusWidget());
  CHECK(QApplication::focusWidget()->objectName() == "card_friction");
  w.session().choose("fender");
  w.bench.deck()->show_page("Takes");
  w.click("hit_close");
  CHECK_FALSE(sheet->isVisible());
  w.settle();
  w.stage_click(w.bench.stage()->pixel_of_hit(hit_point).toPoint());
  CHECK(sheet->isVisible());
  // A line that the hit's handler printed leads to the hit too.
  w.click("hit_close");
  w.bench.deck()->show_page("Log");
  auto* log = w.find<QTreeWidget>("log");
  bool clicked = false;
  for (int i = 0; i < log->topLevelItemCount() && !clicked; ++i) {
    QTreeWidgetItem* item = log->topLevelItem(i);
    if (!item->text(3).contains("hit quay") || item->text(0).toInt() != hit_tick) continue;
    log->scrollToItem(item);
    QTest::mouseClick(log->viewport(), Qt::LeftButton, {}, log->visualItemRect(item).center());
    clicked = true;
  }
  REQUIRE(clicked);
  CHECK(sheet->isVisible());
  REQUIRE(sheet->hit());
  CHECK(sheet->hit()->tick == hit_tick);
}

TEST_CASE("thrown by hand, gone back to, gone on from: the same past, and live from there") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(100));
  w.bench.stage()->tools()->take(Tool::hand);
  const QPoint from = w.bench.stage()->pixel_of("fender").toPoint();
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  for (int i = 1; i <= 8; ++i) {
    QTest::mouseMove(w.bench.stage(), from + QPoint(8 * i, -6 * i));
    REQUIRE(w.play(3));
  }
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, from + QPoint(70, -50));
  REQUIRE(w.play(80));
  const std::int64_t end = w.session().tick();
  std::map<std::int64_t, Vec3> places;
  w.session().with_take([&](const Take& take, TakeReader& reader) {
    CHECK(take.inputs.size() >= 8);
    for (std::int64_t tick = 0; tick < take.ticks; tick += 7)
      places[tick] = reader.body(take, "fender", tick)->pose.position;
  });
  w.click("stop");
  w.press_lanes(static_cast<double>(end - 40) / 120);
  const std::int64_t at = w.session().tick();
  w.click("go_on");
  REQUIRE(wait_until([&] {
    w.session().refresh();
    return !w.session().in_past();
  }));
  CHECK(w.session().tick() >= at);
  CHECK(w.session().play_state() == Session::PlayState::playing);
  REQUIRE(w.play(60));
  CHECK(w.session().takes().size() == 2);
  w.session().with_take([&](const Take& take, TakeReader& reader) {
    for (const auto& [tick, place] : places)
      if (tick <= at) CHECK((reader.body(take, "fender", tick)->pose.position - place).norm() == 0);
  });
  CHECK_THAT(w.session().takes()[1].label.about, Catch::Contains("of take 1"));
}

TEST_CASE("a number becomes a lane, the dial is turned, and both curves and their difference are there") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(240));
  w.click("stop");
  w.settle();
  w.drop_channel("fender.velocity.x");
  CHECK(w.session().scene().lanes == std::vector<std::string>{"height", "speed", "fender.velocity.x"});
  w.press_lanes(1.5);
  const double before = w.session().chosen_reading()->velocity.x();
  CHECK(number_at(w.lanes()->value_of("fender.velocity.x")) == Approx(before).margin(0.01));
  CHECK(w.lanes()->other_of("fender.velocity.x").isEmpty());

  auto* dial = w.find<DialScale>("dial_push");
  const std::size_t steps = w.session().history().steps();
  QTest::mousePress(dial, Qt::LeftButton, {}, {dial->width() / 2, 15});
  for (int x = dial->width() / 2; x < dial->width() - 20; x += 8) QTest::mouseMove(dial, {x, 15});
  QTest::mouseRelease(dial, Qt::LeftButton, {}, {dial->width() - 20, 15});
  CHECK(w.session().history().steps() == steps + 1);  // one turn, one step
  REQUIRE(w.answered());
  w.settle();
  REQUIRE(w.session().takes().size() == 2);
  REQUIRE(w.session().compared_take());
  CHECK(w.session().compared_take()->label.number == 1);
  CHECK(w.session().in_past());
  const double after = w.session().chosen_reading()->velocity.x();
  CHECK(std::abs(after - before) > 0.05);
  // The lanes read what they show when there is time for it.
  CHECK(wait_until([&] { return std::abs(number_at(w.lanes()->value_of("fender.velocity.x")) - after) < 0.01; }));
  CHECK(wait_until([&] { return std::abs(number_at(w.lanes()->other_of("fender.velocity.x")) - before) < 0.01; }));
  const QString other = w.lanes()->other_of("fender.velocity.x");
  CHECK(other.section("  ", 1).replace("−", "-").replace("+", "").toDouble() == Approx(after - before).margin(0.01));
  CHECK_THAT(w.session().takes()[1].label.about, Catch::Contains("push"));
  // A number on the card asks again too; so does undo.
  w.type_number("card_restitution", "0.9");
  REQUIRE(wait_until([&] { return w.session().takes()[1].label.about.find("restitution") != std::string::npos; }));
  REQUIRE(w.answered());
  CHECK(w.session().takes().size() == 2);
  // Without following, nothing is asked.
  w.click("follow");
  const std::string about = w.session().takes()[1].label.about;
  w.type_number("card_restitution", "0.2");
  w.settle();
  CHECK(w.session().takes()[1].label.about == about);
  CHECK_FALSE(w.session().asking());

  // The lanes' menu, and typing a name.
  w.session().add_lane("fender.smell");
  CHECK(w.session().scene().lanes.size() == 3);
  w.session().add_lane("fender.dials.push");
  CHECK(w.session().scene().lanes.size() == 4);
  CHECK(wait_until([&] { return w.lanes()->points_in("fender.dials.push") > 200; }));
}

TEST_CASE("an answer that takes long moves nobody's play head") {
  TakeWindow w("stack-of-crocks");
  w.click("play");
  REQUIRE(w.play(240));
  w.click("stop");
  w.session().look_at_tick(230);
  const std::string body = w.session().scene().bodies.back().name;
  w.session().choose(body);
  w.session().set_value(body, *find_property("restitution"), 0.7);
  // It is looked at while it has not come so far yet.
  REQUIRE(wait_until([&] { return w.session().takes().size() == 2; }));
  CHECK(w.session().head() == 230);
  REQUIRE(w.answered());
  REQUIRE(wait_until([&] {
    bool whole = false;
    w.session().with_take([&](const Take& take, TakeReader&) { whole = take.ticks > 230; });
    return whole;
  }));
  CHECK(w.session().head() == 230);
  CHECK(wait_until([&] { return w.session().tick() == 230; }));
}

TEST_CASE(
    "a marked stretch tells least, greatest, mean, difference and rate; the wheel zooms, a double click shows all") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(240));
  w.click("stop");
  w.settle();
  const auto x = [&](double seconds) { return static_cast<int>(std::lround(w.lanes()->pixel_of_time(seconds))); };
  const int y = w.lanes()->height() - 40;
  QTest::mousePress(w.lanes(), Qt::LeftButton, Qt::ShiftModifier, {x(0.1), y});
  QTest::mouseMove(w.lanes(), {x(0.4), y});
  QTest::mouseRelease(w.lanes(), Qt::LeftButton, Qt::ShiftModifier, {x(0.4), y});
  const QString mark = w.lanes()->mark_of("speed");
  CHECK(mark.contains("mean"));
  CHECK(mark.contains("difference"));
  const auto rate = mark.section(", ", -1).section(' ', 0, 0).toDouble();
  CHECK(rate == Approx(9.81).epsilon(0.03));
  CHECK_FALSE(w.session().in_past());  // marking moves no play head

  const auto all = w.lanes()->seen();
  QWheelEvent wheel(QPointF(x(0.5), y), w.lanes()->mapToGlobal(QPointF(x(0.5), y)), {}, {0, 480}, Qt::NoButton,
                    Qt::NoModifier, Qt::NoScrollPhase, false);
  QApplication::sendEvent(w.lanes(), &wheel);
  const auto near = w.lanes()->seen();
  CHECK(near.second - near.first < 0.6 * (all.second - all.first));
  QTest::mouseDClick(w.lanes(), Qt::LeftButton, {}, {x(0.5), y});
  CHECK(w.lanes()->seen().second == Approx(all.second));
}

TEST_CASE("a pinned take is saved with the scene, and looked at again when that is opened") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(120));
  CHECK_THROWS_WITH(w.session().pin_take(1, true), Catch::Contains("stop first"));
  w.click("stop");
  w.session().label_take(1, "first with wind", "it leans to the left");
  w.session().pin_take(1, true);
  const std::string scene = w.session().path().toStdString();
  CHECK(std::filesystem::exists(scene + "/takes/take-1.take"));
  w.session().save();

  REQUIRE(w.bench.open(QString::fromStdString(scene)));
  REQUIRE(w.session().takes().size() == 1);
  CHECK(w.session().takes()[0].label.name == "first with wind");
  CHECK(w.session().takes()[0].label.note == "it leans to the left");
  auto* list = w.find<QListWidget>("take_list");
  REQUIRE(list->count() == 1);
  QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(0)).center());
  REQUIRE(w.session().shown_take());
  w.session().choose("fender");
  w.press_lanes(0.5);
  CHECK(w.place("fender").y() < 2.2);
  // Asked again of a scene that has changed since.
  w.session().edit("lighter", [](Scene& s) { s.find("fender")->gravity_factor = 0.5; });
  REQUIRE(w.answered());
  CHECK_THAT(w.session().takes().back().label.about, Catch::Contains("gravity factor"));
  w.session().take_values_of(1);
  CHECK(w.session().scene().find("fender")->gravity_factor == 1);
  w.session().pin_take(1, false);
  CHECK_FALSE(std::filesystem::exists(scene + "/takes/take-1.take"));
}

TEST_CASE("a take that no longer plays as it was recorded says so, and still shows what it recorded") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(120));
  w.click("stop");
  const std::filesystem::path scene = w.session().path().toStdString();
  // As another version would have left it: it came to another end.
  Take take = w.session().shown_take()->take->with([](const Take& t) { return t; });
  REQUIRE(take.digest);
  take.digest = *take.digest ^ 1;
  std::filesystem::create_directories(scene / "takes");
  save_take(take, {7, "of old", "", true, ""}, scene / "takes" / "take-7.take");
  REQUIRE(w.bench.open(QString::fromStdString(scene)));
  w.session().show_take(7);
  w.session().choose("fender");
  w.session().ask_again();
  REQUIRE(w.answered());
  CHECK_THAT(w.log(), Catch::Contains("Take 7 no longer plays as it was recorded"));
  w.session().show_take(7);
  w.session().look_at_tick(60);
  CHECK(w.place("fender").y() == Approx(3.32 - 0.5 * 9.81 * 0.25).margin(0.03));
}

TEST_CASE("where bodies touch and how hard is drawn, now and in the past") {
  TakeWindow w("skerrow-quay");
  CHECK_FALSE(w.find<QWidget>("chip_contacts")->isVisible());
  w.click("play");
  REQUIRE(w.play(30));
  w.session().refresh();
  w.session().choose("");
  const auto ink = [&] {
    const QImage picture = w.bench.stage()->grab().toImage();
    int count = 0;
    for (int y = 0; y < picture.height(); ++y)
      for (int x = 0; x < picture.width(); ++x) count += picture.pixelColor(x, y) == theme::contact ? 1 : 0;
    return count;
  };
  REQUIRE_FALSE(w.session().contacts().empty());
  CHECK(ink() == 0);
  w.click("chip_contacts");
  CHECK(ink() > 20);
  const std::size_t live = w.session().contacts().size();
  w.session().look_at_tick(25);
  CHECK(w.session().contacts().size() == live);
  CHECK(ink() > 20);
  for (const ContactView& each : w.session().contacts()) CHECK(each.along >= 0);
}

TEST_CASE("takes share one memory, which can be set; what is forgotten is the oldest that is not pinned, and is said") {
  TakeWindow w("skerrow-quay");
  for (int i = 0; i < 3; ++i) {
    w.click("play");
    REQUIRE(w.play(60));
    w.click("stop");
  }
  w.session().pin_take(1, true);
  REQUIRE(w.session().takes().size() == 3);
  w.session().set_most_takes_memory(0);  // the least that can be
  CHECK(w.session().most_takes_memory() == std::size_t{1} << 20);
  CHECK(w.session().takes().size() == 3);
  CHECK(w.find<QToolButton>("takes_memory")->text().endsWith("/ 1 MiB"));
  // A long log takes memory.
  const std::string file = w.session().scene().find("fender")->scripts[0].file;
  w.session().type_script(
      file, "local long = string.rep('x', 900)\nfunction on.tick() for i = 1, 8 do print(scene.tick, i, long) end end");
  w.session().set_follows(false);
  w.bench.save();
  w.click("play");
  REQUIRE(w.play(400));
  w.click("stop");
  w.click("play");
  REQUIRE(w.play(60));
  w.click("stop");
  std::vector<int> left;
  for (const KeptTake& kept : w.session().takes()) left.push_back(kept.label.number);
  CHECK(left.front() == 1);
  CHECK(std::find(left.begin(), left.end(), 2) == left.end());
  CHECK_THAT(w.log(), Catch::Contains("take 2 was forgotten"));
  CHECK(w.session().takes_memory() <= std::size_t{3} << 20);
  // Kept on disk, the pinned one is looked at again.
  w.session().show_take(1);
  CHECK(w.session().shown_take()->label.number == 1);
}

TEST_CASE("a take file that is broken is said and left; the scene opens") {
  TakeWindow w("skerrow-quay");
  const std::filesystem::path scene = w.session().path().toStdString();
  std::filesystem::create_directories(scene / "takes");
  write_atomically(scene / "takes" / "take-3.take", "no take at all");
  REQUIRE(w.bench.open(w.session().path()));
  CHECK(w.session().takes().empty());
  CHECK_THAT(w.log(), Catch::Contains("take-3.take"));
  CHECK(std::filesystem::exists(scene / "takes" / "take-3.take"));
}

TEST_CASE("a script that is typed and saved asks the take again") {
  TakeWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(120));
  w.click("stop");
  const std::string file = w.session().scene().find("fender")->scripts[0].file;
  w.session().type_script(file, "function on.tick() body:force(vec(0, 0, 40)) end");
  w.settle();
  CHECK(w.session().asked_number() == 0);  // not before it is saved
  w.bench.save();
  REQUIRE(w.answered());
  w.session().with_take([&](const Take& take, TakeReader& reader) {
    CHECK(reader.body(take, "fender", 60)->velocity.z() == Approx(40.0 / 9 * 0.5).epsilon(0.05));
  });
  // One that can't be played is told, and the take before stays.
  w.session().type_script(file, "function on.tick( body:force end");
  w.bench.save();
  REQUIRE(wait_until([&] { return !w.session().asking(); }));
}
