// The bench in real time: how long it takes to open, and whether play keeps its pace with 100 bodies.
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <cstdio>

#include "app/bench.h"
#include "app/kit/theme.h"
#include "app/start.h"

using namespace bronvel;

namespace {

SceneFolder hundred_bodies(const QString& path) {
  SceneFolder folder;
  folder.path = path.toStdString();
  folder.scene.name = "hundred casks";
  folder.scene.view.distance = 22;
  Body ground;
  ground.name = "ground";
  ground.kind = MotionKind::fixed;
  ground.shape = Box{{30, 1, 30}};
  ground.position = {0, -0.5, 0};
  folder.scene.bodies.push_back(ground);
  for (int i = 0; i < 100; ++i) {
    Body b;
    b.name = "cask_" + std::to_string(i);
    if (i % 2 == 0)
      b.shape = Box{{0.8, 0.6, 0.7}};
    else
      b.shape = Sphere{0.4};
    b.position = {1.1 * (i % 5) - 2, 1 + 0.9 * (i / 25), 1.1 * (i / 5 % 5) - 2};
    b.restitution = 0.5;
    b.may_sleep = false;
    b.scripts.push_back({"stir.lua", {}});
    folder.scene.bodies.push_back(b);
  }
  folder.scripts["stir.lua"] =
      "dials { lift = 0.2 }\nfunction on.tick() body:force(vec(0, dials.lift * body.weight, 0)) end\n";
  save_folder(folder);
  return folder;
}

}  // namespace

int main(int argc, char** argv) {
  QElapsedTimer since_start;
  since_start.start();
  prepare_graphics();
  QApplication app(argc, argv);
  theme::apply(app);
  const QTemporaryDir temporary;
  hundred_bodies(temporary.path());
  Bench bench;
  if (!bench.open(temporary.path())) return 1;
  bench.show();
  while (bench.stage()->frames_drawn() == 0) QApplication::processEvents();
  std::printf("opened, first picture after   %6lld ms\n", static_cast<long long>(since_start.elapsed()));

  constexpr double seconds = 10;
  const int frames_before = bench.stage()->frames_drawn();
  bench.session().play();
  QElapsedTimer timer;
  timer.start();
  double most_behind = 0;
  while (static_cast<double>(timer.elapsed()) < seconds * 1000) {
    QApplication::processEvents(QEventLoop::AllEvents, 5);
    most_behind = std::max(most_behind, bench.session().behind());
  }
  bench.session().refresh();
  const double passed = static_cast<double>(timer.elapsed()) / 1000;
  std::printf("renderer                      %s\n", qPrintable(bench.stage()->renderer()));
  std::printf("ticks a second (of 60)        %6.1f\n", static_cast<double>(bench.session().tick()) / passed);
  std::printf("pictures a second             %6.1f\n", (bench.stage()->frames_drawn() - frames_before) / passed);
  std::printf("play behind real time at most %6.3f s\n", most_behind);
  return 0;
}
