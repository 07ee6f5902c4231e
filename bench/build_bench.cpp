// Building with many bodies in the real window: how long choosing, dragging, table edits, undo and opening take,
// drawing aside, and how much memory. Prints a table; every figure has the limit that it must keep.
#include <QApplication>
#include <QLineEdit>
#include <QTableView>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>
#include <cstdio>
#include <ctime>

#include "app/bench.h"
#include "app/kit/theme.h"
#include "app/start.h"
#include "resident_memory.h"
#include "scene/document/starting_surfaces.h"

using namespace bronvel;

namespace {

int bad = 0;

void told(const char* what, double value, double limit, const char* unit) {
  const bool good = value <= limit;
  if (!good) ++bad;
  std::printf("%-58s %9.2f %-3s (limit %g)%s\n", what, value, unit, limit, good ? "" : "  NOT KEPT");
}

// What this thread has computed so far, ms. Without graphics hardware the picture is drawn by other threads, on the
// same cores, long after the call that asked for it: time on the wall would measure them.
double computed() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return 1e3 * static_cast<double>(now.tv_sec) + 1e-6 * static_cast<double>(now.tv_nsec);
}

// The slowest of some runs, ms of computing. Each is as a user would do it: with the events that follow handled before
// the next.
template <class Act>
double slowest(int runs, const Act& act) {
  double worst = 0;
  for (int i = 0; i < runs; ++i) {
    const double start = computed();
    act(i);
    worst = std::max(worst, computed() - start);
    QApplication::processEvents();
  }
  return worst;
}

Scene crowd(int count) {
  Scene scene;
  scene.name = "crowd";
  scene.surfaces = starting_surfaces();
  for (int i = 0; i < count; ++i) {
    Body body;
    body.name = "crate_" + std::to_string(i + 1);
    body.shape = i % 3 == 0 ? Shape(Box{{0.4, 0.3, 0.5}}) : i % 3 == 1 ? Shape(Sphere{0.2}) : Shape(Cylinder{0.2, 0.4});
    body.position = {0.7 * (i % 50), 0.25 + 0.7 * (i / 2500), 0.7 * (i / 50 % 50)};
    body.surface = "oak";
    body.mass = 1 + i % 7;
    body.tags = {"crowd"};
    scene.bodies.push_back(body);
  }
  return scene;
}

}  // namespace

int main(int argc, char** argv) {
  prepare_graphics();
  QApplication app(argc, argv);
  theme::apply(app);
  const QTemporaryDir folder;
  const std::string small = folder.path().toStdString() + "/crowd-2000",
                    large = folder.path().toStdString() + "/crowd-10000";
  save_folder({small, crowd(2000), {}});
  save_folder({large, crowd(10000), {}});

  Bench bench;
  bench.show();
  if (!QTest::qWaitForWindowExposed(&bench)) return 1;
  const double before = resident_bytes() / 1e6;
  std::printf("building with 2,000 bodies, slowest of several, drawing aside\n");
  told("open a scene of 2,000 bodies", slowest(3, [&](int) { bench.open(QString::fromStdString(small)); }), 500, "ms");
  Session& session = bench.session();
  bench.deck()->show_page("Bodies");
  QApplication::processEvents();
  const auto name = [](int i) { return "crate_" + std::to_string(1 + i * 97 % 2000); };
  told("choose one", slowest(20, [&](int i) { session.choose(name(i)); }), 50, "ms");
  told("choose all",
       slowest(5,
               [&](int) {
                 session.choose("");
                 BodyNames all;
                 for (const Body& body : session.scene().bodies) all.push_back(body.name);
                 session.choose_bodies(all);
               }),
       50, "ms");
  told("set a property of all in one step",
       slowest(5,
               [&](int i) {
                 session.set_values(session.chosen_bodies(), *find_property("mass"), "mass",
                                    [&](const Body&) { return Value(2.0 + i); });
               }),
       50, "ms");
  session.choose(name(1));
  told("set a cell of one",
       slowest(20, [&](int i) { session.set_value(name(1), *find_property("mass"), Value(3.0 + i)); }), 50, "ms");
  told("undo", slowest(20, [&](int) { session.undo(); }), 50, "ms");
  told("redo", slowest(20, [&](int) { session.redo(); }), 50, "ms");

  // Dragging by its own middle, along an axis, and all at once: from the mouse's press to the answer.
  Stage* stage = bench.stage();
  Handles& handles = stage->handles();
  const Camera& camera = stage->camera();
  const auto drag = [&](Grip::Kind kind) {
    const QPointF at = stage->pixel_of(session.chosen());
    double worst = slowest(1, [&](int) { handles.begin({kind, 0, 1, 0}, at, camera, stage->size()); });
    worst = std::max(worst,
                     slowest(20, [&](int i) { handles.move(at + QPointF(3 * i, i), camera, stage->size(), false); }));
    return std::max(worst, slowest(1, [&](int) { handles.end(); }));
  };
  bench.open(QString::fromStdString(small));
  session.choose(name(3));
  told("drag one along an axis", drag(Grip::Kind::axis), 50, "ms");
  told("drag one over what is under it", drag(Grip::Kind::body), 50, "ms");
  BodyNames hundred;
  for (int i = 0; i < 100; ++i) hundred.push_back(name(i));
  session.choose_bodies(hundred);
  told("drag a hundred along an axis", drag(Grip::Kind::axis), 50, "ms");
  told("copy a hundred",
       slowest(3, [&](int) { session.edit("copy", [&](Scene& scene) {
                               duplicate(scene, hundred, {0, 5, 0});
                             }); }), 50,
       "ms");

  for (int i = 0; i < 1000; ++i) session.edit("mass", [&](Scene& scene) { scene.bodies[3].mass = 2 + i; });
  told("memory of 1,000 steps of undo", static_cast<double>(session.history().bytes()) / 1e6, 5, "MB");
  told("save", slowest(3, [&](int) { bench.save(); }), 500, "ms");
  const double used = resident_bytes() / 1e6 - before;
  std::printf("%-58s %9.2f MB\n", "memory that all this took, drawing included", used);
  told("open a scene of 10,000 bodies", slowest(2, [&](int) { bench.open(QString::fromStdString(large)); }), 2000,
       "ms");
  std::printf("%-58s %9.2f MB\n", "memory with 10,000 bodies open", resident_bytes() / 1e6);
  return bad == 0 ? 0 : 1;
}
