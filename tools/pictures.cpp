// Takes the pictures in docs/screenshots from the demo, the same every time.
#include <QDir>
#include <QImage>
#include <QScreen>
#include <QTemporaryDir>
#include <cstdio>
#include <filesystem>

#include "../tests/app/window_driver.h"
#include "app/build/import_sheet.h"
#include "app/examples_sheet.h"
#include "app/guide.h"
#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/session/why.h"
#include "app/session/wishes.h"
#include "app/stage/difference_sheet.h"
#include "app/stage/hit_sheet.h"
#include "app/start.h"

using namespace bronvel;

namespace {

bool take(Bench& bench, const QString& folder, const QString& name) {
  wait_until([&] { return !bench.session().why().on_its_way(); });
  QTest::qWait(250);
  const QString file = folder + "/" + name + ".png";
  if (bench.grab().save(file)) return true;
  std::fprintf(stderr, "pictures: can't write %s\n", qPrintable(file));
  return false;
}

}  // namespace

int main(int argc, char** argv) {
  prepare_graphics();
  QApplication app(argc, argv);
  theme::apply(app);
  const QString folder = argc > 1 ? argv[1] : "docs/screenshots";
  // Work on a copy: the pictures save.
  const QTemporaryDir copy;
  const std::string scene = copy.path().toStdString() + "/skerrow-quay";
  std::filesystem::copy(examples_folder() + "/skerrow-quay", scene, std::filesystem::copy_options::recursive);
  HandClock hand;
  Bench bench(hand.clock());
  if (!bench.open(QString::fromStdString(scene))) return 1;
  bench.show();
  if (!QTest::qWaitForWindowExposed(&bench)) return 1;
  Session& session = bench.session();
  session.play();
  play_ticks(bench, hand, 150);
  for (const Dial& dial : session.dials("fender"))
    if (dial.name == "push") session.set_dial("fender", dial, 5.5);
  session.set_value("fender", *find_property("restitution"), 0.9);
  play_ticks(bench, hand, 215);
  bool good = take(bench, folder, "bench-play");
  session.stop();
  good = take(bench, folder, "keep-or-drop") && good;
  session.drop_pending();
  // Gone back to just after the second touch, with its sheet.
  std::optional<std::size_t> hit;
  std::int64_t tick = 0;
  session.with_take([&](const Take& shown, TakeReader&) {
    hit = touch_at(shown, "fender", 0);
    if (hit) hit = touch_at(shown, "fender", shown.events[*hit].tick + 1);
    if (hit) tick = shown.events[*hit].tick;
  });
  if (hit) {
    session.look_at_tick(tick + 24);
    bench.hit_sheet()->show_hit(*hit);
    bench.desk()->go_to("nudge.lua", 21);
  }
  good = take(bench, folder, "take-moment") && good;
  bench.hit_sheet()->hide();
  bench.stage()->chips()->set_energy(true);
  good = take(bench, folder, "energy") && good;
  bench.stage()->chips()->set_energy(false);
  session.add_lane("fender.velocity.x");
  for (const Dial& dial : session.dials("fender"))
    if (dial.name == "push") session.set_dial("fender", dial, 9.0);
  wait_until([&] { return session.asked_number() > 0 && !session.asking() && session.last_answer() > 0; });
  bench.stage()->chips()->set_difference(true);
  wait_until([&] { return bench.difference_sheet()->difference().has_value(); });
  good = take(bench, folder, "difference") && good;
  bench.stage()->chips()->set_difference(false);
  session.live();
  session.undo();
  session.undo();
  session.play();
  play_ticks(bench, hand, 240);
  session.pause();

  QString script = bench.desk()->editor()->text();
  bench.desk()->editor()->setText(script.replace("vec(dials.push, 0, 0)", "dials.push"));
  bench.save();
  session.step();
  bench.deck()->show_page("Log");
  bench.desk()->go_to("nudge.lua", 21);
  good = take(bench, folder, "log-fault") && good;
  session.stop();
  session.drop_pending();
  bench.deck()->show_page("Takes");
  // What shall it do: asked, and the value found.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/skerrow-quay")) return 1;
  session.choose("fender");
  bench.guide()->hide();
  bench.deck()->show_page("Ask");
  Wishes& wishes = session.wishes();
  const auto answered = [&] { return wishes.current() && !wishes.matters().all.empty(); };
  wait_until(answered);
  wishes.change(0, [&] {
    Wish wish = session.scene().checks[0];
    wish.value = 4;
    return wish;
  }());
  wait_until(answered);
  wishes.aim();
  wait_until([&] { return wishes.found().has_value(); });
  good = take(bench, folder, "ask") && good;
  session.undo();
  bench.deck()->show_page("Takes");
  session.stop();
  session.drop_pending();

  // The hands: an arrow drawn from a stone, and a blast.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/powder-store")) return 1;
  session.play();
  play_ticks(bench, hand, 110);
  bench.stage()->tools()->take(Tool::flick);
  const QPoint from = bench.stage()->pixel_of("crate_5").toPoint();
  QTest::mousePress(bench.stage(), Qt::LeftButton, {}, from);
  QTest::mouseMove(bench.stage(), from + QPoint(-60, -50));
  QTest::mouseMove(bench.stage(), from + QPoint(-170, -130));
  good = take(bench, folder, "hands") && good;
  QTest::mouseRelease(bench.stage(), Qt::LeftButton, {}, from + QPoint(-170, -130));
  play_ticks(bench, hand, 60);
  session.stop();

  // In the plane: two paddles with keys of their own, from one script.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/sorting-table")) return 1;
  session.choose("right_sorter");
  session.play();
  session.key("enter", true);
  play_ticks(bench, hand, 60);
  session.key("up", true);
  play_ticks(bench, hand, 30);
  session.pause();
  bench.deck()->show_page("Inputs");
  good = take(bench, folder, "plane-and-inputs") && good;
  session.release_keys();
  session.stop();
  session.drop_pending();

  // A page of snags.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/three-airs")) return 1;
  session.edit("mistakes", [](Scene& changed) {
    changed.find("float_slow")->kind = MotionKind::fixed;
    changed.zones[1].tags = {"lihgt"};
  });
  session.type_script("wind_zone.lua",
                      "-- Wind.\ndials { push = 20 }\n\nfunction on.tik(dt)\n"
                      "  body:force(vec(dials.push, 0, 0) * dt)\nend\n");
  session.choose("float_wind");
  session.type_script("slow_zone.lua", "function on.tick()\n  body:force(vec(1, 0, 0))\nend\n");
  session.check_snags();
  bench.deck()->show_page("Snags");
  bench.desk()->go_to("wind_zone.lua", 4);
  good = take(bench, folder, "snags") && good;

  // Building: handles on a body of a stamp, the table and the card of several, surfaces, a joint's limits, a mesh.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/three-bells")) return 1;
  session.choose("stone_2");
  bench.deck()->show_page("Takes");
  good = take(bench, folder, "build") && good;
  session.choose_bodies({"stone", "stone_2", "stone_3", "bell_2"});
  bench.deck()->show_page("Bodies");
  good = take(bench, folder, "bodies") && good;
  session.choose("bell_2");
  bench.deck()->show_page("Surfaces");
  QTest::qWait(900);
  good = take(bench, folder, "surfaces") && good;
  bench.import_sheet()->open_file(QString::fromStdString(examples_folder()) + "/three-bells/meshes/bell.obj");
  if (!wait_until([&] { return !bench.import_sheet()->working(); })) return 1;
  good = take(bench, folder, "mesh-fits") && good;
  QTest::mouseClick(bench.findChild<QWidget*>("import_close"), Qt::LeftButton);
  if (!bench.open(QString::fromStdString(examples_folder()) + "/skerrow-crane")) return 1;
  session.choose_thing(ThingKind::joint, "pintle");
  bench.deck()->show_page("Scene");
  good = take(bench, folder, "joint-and-scene") && good;

  // Water with a floater's centres; pieces pulled apart; a pane that a stone went through.
  if (!bench.open(QString::fromStdString(examples_folder()) + "/loaded-barge")) return 1;
  session.choose("barge");
  bench.deck()->show_page("Takes");
  session.play();
  play_ticks(bench, hand, 900);
  session.pause();
  good = take(bench, folder, "water") && good;
  session.stop();
  session.drop_pending();
  if (!bench.open(QString::fromStdString(examples_folder()) + "/chandlers-window")) return 1;
  session.choose("pane");
  session.play();
  play_ticks(bench, hand, 52);
  session.pause();
  good = take(bench, folder, "breaking") && good;
  session.stop();
  session.drop_pending();

  // Completion while typing, in a copy.
  if (!bench.open(QString::fromStdString(scene))) return 1;
  session.choose("fender");
  bench.deck()->show_page("Takes");
  bench.desk()->go_to("nudge.lua", 18);
  bench.desk()->editor()->setFocus();
  QTest::keyClick(bench.desk()->editor(), Qt::Key_End);
  QTest::keyClick(bench.desk()->editor(), Qt::Key_Return);
  QTest::keyClicks(bench.desk()->editor(), "body:");
  bench.repaint();
  QTest::qWait(500);
  // The list is a window of its own.
  good = app.primaryScreen()
             ->grabWindow(0, bench.x(), bench.y(), bench.width(), bench.height())
             .save(folder + "/completion.png") &&
         good;
  QTest::keyClick(bench.desk()->editor(), Qt::Key_Escape);

  auto* examples = bench.findChild<ExamplesSheet*>();
  examples->setGeometry(bench.rect().adjusted(120, 70, -120, -60));
  examples->open();
  good = take(bench, folder, "examples") && good;
  examples->hide();

  if (argc > 2 && QString(argv[2]) == "--thumbnails") {
    const QDir all(QString::fromStdString(examples_folder()));
    for (const QString& entry : all.entryList(QDir::Dirs | QDir::NoDotAndDotDot)) {
      if (!bench.open(all.filePath(entry))) return 1;
      session.choose("");
      QTest::qWait(60);
      const QImage picture = bench.stage()->picture().scaledToWidth(320, Qt::SmoothTransformation);
      good = picture.save(all.filePath(entry + "/thumbnail.png")) && good;
    }
  }
  return good ? 0 : 1;
}
