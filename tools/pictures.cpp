// Takes the pictures in docs/screenshots from the demo, the same every time.
#include <QTemporaryDir>
#include <cstdio>
#include <filesystem>

#include "../tests/app/window_driver.h"
#include "app/start.h"
#include "app/theme.h"

using namespace bronvel;

namespace {

bool take(Bench& bench, const QString& folder, const QString& name) {
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
  std::filesystem::copy(std::string(BRONVEL_EXAMPLES) + "/skerrow-quay", scene,
                        std::filesystem::copy_options::recursive);
  HandClock hand;
  Bench bench(hand.clock());
  if (!bench.open(QString::fromStdString(scene))) return 1;
  bench.show();
  if (!QTest::qWaitForWindowExposed(&bench)) return 1;
  bool good = take(bench, folder, "bench-edit");

  Session& session = bench.session();
  session.play();
  play_ticks(bench, hand, 150);
  for (const Dial& dial : session.dials("fender"))
    if (dial.name == "push") session.set_dial("fender", dial, 5.5);
  session.set_value("fender", *find_property("restitution"), 0.9);
  play_ticks(bench, hand, 215);
  good = take(bench, folder, "bench-play") && good;
  session.stop();
  good = take(bench, folder, "keep-or-drop") && good;
  session.drop_pending();
  session.compare_take(1);
  session.play();
  play_ticks(bench, hand, 240);
  session.pause();
  good = take(bench, folder, "takes-compared") && good;

  QString script = bench.desk()->editor()->text();
  bench.desk()->editor()->setText(script.replace("vec(dials.push, 0, 0)", "dials.push"));
  bench.save();
  session.step();
  bench.deck()->show_page(1);
  bench.desk()->go_to("nudge.lua", 21);
  good = take(bench, folder, "log-fault") && good;
  session.stop();
  session.drop_pending();
  bench.deck()->show_page(0);
  if (!bench.open(QString(BRONVEL_EXAMPLES) + "/cask-pyramid")) return 1;
  session.play();
  play_ticks(bench, hand, 225);
  session.pause();
  good = take(bench, folder, "casks") && good;
  session.stop();
  session.drop_pending();
  if (!bench.open(QString(BRONVEL_EXAMPLES) + "/skerrow-crane")) return 1;
  session.choose("cask");
  session.play();
  play_ticks(bench, hand, 300);
  session.pause();
  good = take(bench, folder, "crane") && good;
  return good ? 0 : 1;
}
