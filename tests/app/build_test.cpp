// Building a scene in the real window, by mouse and keyboard.
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTableView>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include <fstream>

#include "app/build/build_bar.h"
#include "app/build/import_sheet.h"
#include "app/deck/pair_drop.h"
#include "app/kit/number_field.h"
#include "app/session/recovery.h"
#include "app/window.h"
#include "geometry/shapes/compound.h"
#include "scene/files/write.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

// The pixel of a handle, found by looking.
QPoint grip_pixel(Window& w, Grip::Kind kind, int axis = 0, int sign = 1) {
  Stage* stage = w.bench.stage();
  for (int y = 2; y < stage->height(); y += 3)
    for (int x = 2; x < stage->width(); x += 3) {
      const Grip grip = stage->handles().at({double(x), double(y)}, stage->camera(), stage->size(), "");
      if (grip.kind == kind && grip.axis == axis && (kind != Grip::Kind::face || grip.sign == sign)) return {x, y};
    }
  FAIL("no such handle");
  return {};
}

void type_place(Window& w, double x, double y, double z) {
  w.type_number("card_position_x", QString::number(x));
  w.type_number("card_position_y", QString::number(y));
  w.type_number("card_position_z", QString::number(z));
}

void undo_all(Window& w) {
  for (int i = 0; i < 1000 && !w.bench.session().undo_name().isEmpty(); ++i)
    QTest::keyClick(&w.bench, Qt::Key_Z, Qt::ControlModifier);
}

void redo_all(Window& w) {
  for (int i = 0; i < 1000 && !w.bench.session().redo_name().isEmpty(); ++i)
    QTest::keyClick(&w.bench, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
}

// A tetrahedron in pieces, as a file.
QString write_obj(const QTemporaryDir& folder, const std::string& name, int pieces) {
  const fs::path file = fs::path(folder.path().toStdString()) / name;
  std::ofstream out(file);
  int first = 1;
  for (int i = 0; i < pieces; ++i) {
    out << "o " << (i == 0 ? "base_frame" : "leaf_" + std::to_string(i)) << "\n";
    for (const Vec3& p : {Vec3(0, 0, 0), Vec3(1, 0, 0), Vec3(0, 1, 0), Vec3(0, 0, 1)})
      out << "v " << p.x() + 2 * i << " " << p.y() << " " << p.z() << "\n";
    for (const auto& f : {std::array{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}})
      out << "f " << first + f[0] << " " << first + f[1] << " " << first + f[2] << "\n";
    first += 4;
  }
  return QString::fromStdString(file.string());
}

}  // namespace

TEST_CASE("from an empty scene: quay, ramp, pyramid, crane, rope, surfaces, a recipe; undone to empty and redone") {
  Window w;
  Session& session = w.bench.session();
  Stage* stage = w.bench.stage();
  const Scene empty = session.scene();

  // A quay: dropped, sized to the millimetre at once, of granite.
  w.drop("slab", {260, 300});
  REQUIRE(session.chosen() == "slab");
  w.type_number("card_name", "quay");
  REQUIRE(session.chosen() == "quay");
  w.type_number("card_size0", "12");
  w.type_number("card_size1", "1");
  w.type_number("card_size2", "800 cm");
  type_place(w, 0, 0.5, 0);
  w.choose_from(w.find<QToolButton>("card_surface"), "granite");
  CHECK(session.scene().find("quay")->surface == "granite");
  CHECK(std::get<Box>(session.scene().find("quay")->shape).size == Vec3(12, 1, 8));
  QTest::keyClick(stage, Qt::Key_F);

  // A ramp.
  w.drop("plank", w.pixel({-3, 1, 2}));
  REQUIRE(session.chosen() == "plank");
  CHECK(session.scene().find("plank")->position.y() == Approx(1.04).margin(1e-6));  // it lies on the quay
  w.type_number("card_orientation_z", "-20");
  CHECK(session.scene().find("plank")->orientation.angularDistance(
            Quat(Eigen::AngleAxisd(-20 * pi / 180, Vec3::Unit(2)))) < 1e-9);

  // Ten casks: a row by the sheet, the others by copying and typing.
  w.drop("cask", w.pixel({1, 1, 2}));
  REQUIRE(session.chosen() == "cask");
  type_place(w, 3.2, 1.4, 2);
  w.choose_from(w.find<QToolButton>("build_arrange"), "In a line");
  w.type_number("arrange_count", "4");
  w.type_number("arrange_step_x", "0.62");
  w.click("arrange_make");
  CHECK(session.scene().find("cask_4")->position.isApprox(Vec3(5.06, 1.4, 2)));
  for (int row = 1; row < 4; ++row)
    for (int i = 0; i + row < 4; ++i) {
      stage->setFocus();
      QTest::keyClick(stage, Qt::Key_D, Qt::ControlModifier);
      type_place(w, 3.2 + 0.62 * i + 0.31 * row, 1.4 + 0.8 * row, 2);
    }
  int casks = 0;
  for (const Body& body : session.scene().bodies) casks += body.name.starts_with("cask") ? 1 : 0;
  CHECK(casks == 10);

  // A crane: a post that stays, an arm on a hinge with limits, a load on a rope.
  w.drop("box", w.pixel({-2, 1, -1}));
  w.type_number("card_name", "post");
  w.type_number("card_size0", "0.3");
  w.type_number("card_size1", "3");
  w.type_number("card_size2", "0.3");
  w.click("more_where_is");
  QTest::qWait(20);
  w.choose_from(w.find<QToolButton>("card_kind"), "static");
  type_place(w, -2, 2.5, -1);
  w.drop("plank", w.pixel({0, 1, -1}));
  w.type_number("card_name", "arm");
  type_place(w, -0.84, 4.1, -1);
  w.drop("ball", w.pixel({0, 1, -1}));
  w.type_number("card_name", "load");
  w.type_number("card_size0", "0.25");
  type_place(w, 0, 2.5, -1);
  stage->setFocus();
  QTest::keyClick(stage, Qt::Key_A);
  w.bench.build_bar()->start_joint(JointKind::hinge);
  w.stage_click(w.pixel({-2, 2.6, -0.85}));
  w.stage_click(w.pixel({-1.75, 4.14, -1}));
  REQUIRE(session.scene().joints.size() == 1);
  CHECK(session.scene().joints[0].a == "post");
  CHECK(session.scene().joints[0].b == "arm");
  REQUIRE(session.chosen_joint());
  // Limits: one dragged on the stage, one typed.
  const QPoint high = grip_pixel(w, Grip::Kind::high);
  w.drag(high, high + QPoint(-14, -22));
  REQUIRE(session.scene().joints[0].high);
  const double degrees = *session.scene().joints[0].high * 180 / pi;
  CHECK(std::abs(degrees / 5 - std::round(degrees / 5)) < 1e-6);
  w.type_number("card_low", "-30");
  CHECK(*session.scene().joints[0].low == Approx(-30 * pi / 180));
  w.choose_from(w.find<QToolButton>("build_tie"), "distance or rope");
  w.stage_click(w.pixel({0, 4.14, -1}));
  w.stage_click(w.pixel({0, 2.6, -0.77}));
  REQUIRE(session.scene().joints.size() == 2);
  CHECK(session.scene().joints[1].kind == JointKind::distance);
  CHECK(*session.scene().joints[1].high == Approx(1.5).margin(0.25));

  // A ready behaviour on the load.
  w.stage_click(w.pixel({0, 2.3, -0.85}));
  REQUIRE(session.chosen() == "load");
  emit w.find<QToolButton>("script_picker")->menu()->aboutToShow();
  w.find<QMenu>("ready_behaviours")->actions().first()->trigger();
  CHECK(session.scene().find("load")->scripts.size() == 1);

  w.click("play");
  REQUIRE(w.play(60));
  CHECK(session.script_faults() == 0);
  CHECK(w.place("cask").y() > 1.3);
  CHECK(w.place("load").y() > 1);
  w.click("stop");
  session.drop_pending();

  // All back, and all again: the same file, byte for byte.
  const QString folder = w.copy.path() + "/built";
  REQUIRE(w.bench.save_as(folder));
  const fs::path file = fs::path(folder.toStdString()) / "scene.json";
  const std::string bytes = read_file(file);
  undo_all(w);
  CHECK(session.scene() == empty);
  redo_all(w);
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
  CHECK(read_file(file) == bytes);
  CHECK(session.saved());
  CHECK(open_folder(folder.toStdString()).scene == session.scene());
}

TEST_CASE("handles move along an axis, turn and size, snap, take typed numbers, and let go on Escape") {
  Window w;
  Session& session = w.bench.session();
  Stage* stage = w.bench.stage();
  w.drop("box", {250, 250});
  const auto box = [&]() -> const Body& { return *session.scene().find("box"); };
  const Vec3 before = box().position;
  stage->setFocus();

  QPoint at = grip_pixel(w, Grip::Kind::axis, 1);
  w.drag(at, at + QPoint(0, -60));
  const double up = box().position.y() - before.y();
  CHECK(up > 0.2);
  CHECK(std::abs(up * 10 - std::round(up * 10)) < 1e-9);  // on the grid
  CHECK(session.undo_name().startsWith("box: move y by"));

  // Typed in mid-drag: exactly that.
  at = grip_pixel(w, Grip::Kind::axis, 0);
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QTest::mouseMove(stage, at + QPoint(20, 0));
  QTest::mouseMove(stage, at + QPoint(30, 0));
  QTest::keyClicks(stage, "1.234");
  QTest::keyClick(stage, Qt::Key_Return);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at + QPoint(30, 0));
  CHECK(box().position.x() == Approx(before.x() + 1.234).margin(1e-12));

  at = grip_pixel(w, Grip::Kind::face, 1, 1);
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QTest::mouseMove(stage, at + QPoint(0, -10));
  QTest::mouseMove(stage, at + QPoint(0, -20));
  QTest::keyClicks(stage, "160 cm");
  QTest::keyClick(stage, Qt::Key_Return);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at + QPoint(0, -20));
  CHECK(std::get<Box>(box().shape).size.y() == Approx(1.6));
  CHECK(box().mass == Approx(0.8 * 1.6 * 0.8 * 700));
  // The lower side stayed where it was.
  CHECK(box().position.y() - 0.8 == Approx(before.y() + up - 0.4));

  at = grip_pixel(w, Grip::Kind::ring, 1);
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QTest::mouseMove(stage, at + QPoint(10, 4));
  QTest::mouseMove(stage, at + QPoint(24, 8));
  QTest::keyClicks(stage, "37");
  QTest::keyClick(stage, Qt::Key_Return);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at);
  CHECK(box().orientation.angularDistance(Quat(Eigen::AngleAxisd(37 * pi / 180, Vec3::Unit(1)))) < 1e-9);

  const Scene held = session.scene();
  at = grip_pixel(w, Grip::Kind::axis, 2);
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QTest::mouseMove(stage, at + QPoint(30, 30));
  QTest::mouseMove(stage, at + QPoint(60, 60));
  CHECK_FALSE(session.scene() == held);
  QTest::keyClick(stage, Qt::Key_Escape);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at + QPoint(60, 60));
  CHECK(session.scene() == held);
}

TEST_CASE("a body dragged by itself slides on what is under it and lines up with its neighbours") {
  Window w;
  Session& session = w.bench.session();
  w.drop("slab", {260, 300});
  w.drop("box", w.pixel(session.scene().find("slab")->position + Vec3(-1, 0.25, 0)));
  const double height = session.scene().find("box")->position.y();
  CHECK(height == Approx(0.9).margin(1e-6));
  const QPoint at = w.bench.stage()->pixel_of("box").toPoint() + QPoint(3, 3);
  w.drag(at, at + QPoint(70, 10));
  CHECK(session.scene().find("box")->position.y() == Approx(height).margin(1e-4));
  CHECK(session.undo_name() == "box: move");
  // Locked, it stays, and a drag turns the view instead.
  w.choose_from(w.find<QToolButton>("build_arrange"), "Lock");
  const Vec3 held = session.scene().find("box")->position;
  const double turn = w.bench.stage()->camera().view.turn;
  w.drag(w.bench.stage()->pixel_of("box").toPoint(), w.bench.stage()->pixel_of("box").toPoint() + QPoint(60, 0));
  CHECK(session.scene().find("box")->position == held);
  CHECK(w.bench.stage()->camera().view.turn != turn);
}

TEST_CASE("several at once: mixed values, changes of each, settings given, rows of the table, a box drawn around") {
  Window w;
  Session& session = w.bench.session();
  w.drop("ball", {150, 300});
  w.drop("box", {260, 300});
  w.drop("cask", {370, 300});
  w.stage_click(w.bench.stage()->pixel_of("ball").toPoint());
  w.stage_click(w.bench.stage()->pixel_of("box").toPoint(), Qt::ShiftModifier);
  REQUIRE(session.chosen_bodies() == BodyNames{"ball", "box"});
  CHECK(w.find<QLineEdit>("card_mass")->placeholderText() == "mixed");
  const double ball = session.scene().find("ball")->mass, box = session.scene().find("box")->mass;
  w.type_number("card_mass", "×1.5");
  CHECK(session.scene().find("ball")->mass == Approx(1.5 * ball));
  CHECK(session.scene().find("box")->mass == Approx(1.5 * box));
  CHECK(session.undo_name() == "2 bodies: mass");
  w.type_number("card_drag_area", "+0.25");
  CHECK(session.scene().find("ball")->drag_area == 0.25);

  QTest::mouseClick(w.find<QCheckBox>("give_colour"), Qt::LeftButton, {}, {6, 8});
  w.click("give_settings");
  CHECK(session.scene().find("ball")->colour == session.scene().find("box")->colour);
  CHECK(session.scene().find("cask")->colour != session.scene().find("box")->colour);

  w.click("tab_Bodies");
  auto* table = w.find<QTableView>("bodies");
  CHECK(table->selectionModel()->selectedRows().size() == 2);
  w.find<QLineEdit>("bodies_filter")->setText("cask");
  CHECK(table->model()->rowCount() == 1);
  w.find<QLineEdit>("bodies_filter")->setText("");
  table->selectAll();
  CHECK(session.chosen_bodies().size() == 3);
  table->selectionModel()->setCurrentIndex(table->model()->index(0, 6), QItemSelectionModel::NoUpdate);
  QTest::keyClicks(w.find<QLineEdit>("bodies_many"), "0.5");
  w.click("bodies_apply");
  for (const Body& body : session.scene().bodies) CHECK(body.linear_damping == 0.5);
  QTest::keyClicks(w.find<QLineEdit>("bodies_many"), "/2");
  QTest::keyClick(w.find<QLineEdit>("bodies_many"), Qt::Key_Return);
  for (const Body& body : session.scene().bodies) CHECK(body.linear_damping == 0.25);
  QTest::keyClicks(w.find<QLineEdit>("bodies_many"), "heavy");
  w.click("bodies_apply");
  for (const Body& body : session.scene().bodies) CHECK(body.linear_damping == 0.25);

  session.choose("");
  w.drag({20, 120}, {w.bench.stage()->width() - 20, 440}, Qt::ShiftModifier);
  CHECK(session.chosen_bodies().size() == 3);
  w.choose_from(w.find<QToolButton>("build_arrange"), "Make one body");
  REQUIRE(session.scene().bodies.size() == 1);
  CHECK(std::holds_alternative<Compound>(session.scene().bodies[0].shape));
  w.choose_from(w.find<QToolButton>("build_arrange"), "Split");
  CHECK(session.scene().bodies.size() == 3);
  QTest::keyClick(w.bench.stage(), Qt::Key_Delete);
  CHECK(session.scene().bodies.empty());
}

TEST_CASE("zones and paths are made, moved by their handles, and taken away on the stage") {
  Window w;
  Session& session = w.bench.session();
  Stage* stage = w.bench.stage();
  w.choose_from(w.find<QToolButton>("build_zone"), "sphere");
  REQUIRE(session.chosen_zone());
  const Vec3 before = session.chosen_zone()->position;
  QPoint at = grip_pixel(w, Grip::Kind::axis, 0);
  w.drag(at, at + QPoint(50, 0));
  CHECK(session.chosen_zone()->position.x() != before.x());
  w.type_number("card_gravity_factor", "0.2");
  CHECK(session.chosen_zone()->gravity_factor == 0.2);
  stage->setFocus();
  QTest::keyClick(stage, Qt::Key_Delete);
  CHECK(session.scene().zones.empty());

  // A field that outlives the shape it was made for has nothing to show.
  w.choose_from(w.find<QToolButton>("build_zone"), "sphere");
  const std::string ball = session.chosen_zone()->name;
  w.choose_from(w.find<QToolButton>("build_zone"), "box");
  auto* last = w.find<NumberField>("card_size_z");
  last->setFocus();
  last->selectAll();
  QTest::keyClicks(last, "3");
  session.choose_thing(ThingKind::zone, ball);
  QTest::mouseClick(stage, Qt::LeftButton, {}, {30, 200});
  CHECK_THAT(w.log(), !Catch::Contains("range"));
  session.choose_thing(ThingKind::zone, ball);
  stage->setFocus();
  QTest::keyClick(stage, Qt::Key_Delete);

  w.click("build_path");
  w.stage_click({120, 330});
  w.stage_click({260, 300});
  w.stage_click({400, 330});
  QTest::keyClick(stage, Qt::Key_Return);
  REQUIRE(session.chosen_path());
  CHECK(session.chosen_path()->points.size() == 3);
  const Vec3 second = session.chosen_path()->points[1];
  w.drag(w.pixel(second), w.pixel(second) + QPoint(0, 40));
  CHECK((session.chosen_path()->points[1] - second).norm() > 0.2);
  const Vec3 middle = 0.5 * (session.chosen_path()->points[0] + session.chosen_path()->points[1]);
  w.drag(w.pixel(middle), w.pixel(middle) + QPoint(0, -30));
  CHECK(session.chosen_path()->points.size() == 4);
  QTest::keyClick(stage, Qt::Key_Delete);
  CHECK(session.chosen_path()->points.size() == 3);
  w.type_number("card_point0_y", "2");
  CHECK(session.chosen_path()->points[0].y() == 2);

  w.click("build_measure");
  w.stage_click({120, 330});
  w.stage_click({260, 300});
  w.click("tab_Scene");
  w.click("cue_add");
  auto* cues = w.find<QTreeWidget>("cues");
  REQUIRE(cues->topLevelItemCount() == 1);
  cues->topLevelItem(0)->setText(1, "2.5");
  CHECK(session.scene().cues[0].at == 2.5);
  w.type_number("scene_gravity_y", "-1.62");
  CHECK(session.scene().world.gravity.y() == -1.62);
  w.type_number("scene_substeps", "2.5");
  CHECK(session.scene().world.substeps == 4);
}

TEST_CASE("a stamp is made, dropped again, differs, gives and takes") {
  Window w;
  Session& session = w.bench.session();
  w.drop("box", {200, 320});
  w.choose_from(w.find<QToolButton>("build_arrange"), "Make a stamp");
  REQUIRE(session.scene().stamps.size() == 1);
  w.drop("box_kit", {380, 320});
  REQUIRE(session.scene().bodies.size() == 2);
  CHECK(session.scene().find("box_2")->stamped.copy == "box_kit_2");
  w.type_number("card_mass", "50");
  w.bench.card()->begin_with_sizes();
  session.choose("");
  session.choose("box_2");
  w.click("stamp_give_0");
  CHECK(session.scene().find("box")->mass == 50);
  QTest::qWait(20);
  w.type_number("card_mass", "70");
  session.choose("");
  session.choose("box_2");
  w.click("stamp_take_0");
  CHECK(session.scene().find("box_2")->mass == 50);
}

TEST_CASE("a mesh: its fits measured, the wrong one explained, pieces by name, saved and opened") {
  Window w;
  Session& session = w.bench.session();
  ImportSheet* sheet = w.bench.import_sheet();
  REQUIRE(sheet->open_file(write_obj(w.copy, "wedge.obj", 1)));
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  auto* fits = w.find<QTreeWidget>("fits");
  CHECK(fits->topLevelItem(4)->text(1) == "× 1.00");  // a tetrahedron is its own hull
  CHECK(fits->topLevelItem(4)->text(2) == "0.0");
  // Other units while it still measures: what comes is of them, not of before.
  const double metres = fits->topLevelItem(0)->text(2).toDouble();
  w.find<QComboBox>("import_unit")->setCurrentIndex(3);
  w.find<QComboBox>("import_unit")->setCurrentIndex(2);
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  CHECK(fits->topLevelItem(0)->text(2).toDouble() == Approx(metres / 1000).margin(0.06));
  w.find<QComboBox>("import_unit")->setCurrentIndex(0);
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  fits->setCurrentItem(fits->topLevelItem(6));
  CHECK(w.find<QLabel>("import_advice")->text().contains("no inside"));
  CHECK_FALSE(w.find<QToolButton>("import_use")->isEnabled());
  w.click("import_instead");
  CHECK(w.find<QToolButton>("import_use")->isEnabled());
  w.click("import_use");
  REQUIRE(session.scene().bodies.size() == 1);
  CHECK(session.scene().bodies[0].looks->model == "wedge");
  CHECK(session.scene().bodies[0].mass == Approx(700.0 / 6).epsilon(0.01));
  // Another shape for the same mesh.
  w.click("card_fit");
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  fits->setCurrentItem(fits->topLevelItem(0));
  w.click("import_use");
  CHECK(std::holds_alternative<Box>(session.scene().bodies[0].shape));

  REQUIRE(sheet->open_file(write_obj(w.copy, "gate.obj", 3)));
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  w.find<QComboBox>("import_pieces")->setCurrentIndex(1);
  w.find<QLineEdit>("import_fixed")->setText("*_frame");
  fits->setCurrentItem(fits->topLevelItem(4));
  w.click("import_use");
  REQUIRE(session.scene().bodies.size() == 4);
  CHECK(session.scene().find("base_frame")->kind == MotionKind::fixed);
  CHECK(session.scene().find("leaf_2")->kind == MotionKind::dynamic);
  CHECK((session.scene().find("leaf_2")->position - session.scene().find("leaf_1")->position).isApprox(Vec3(2, 0, 0)));
  // The same pieces as one body that breaks into them.
  REQUIRE(sheet->open_file(write_obj(w.copy, "door.obj", 3)));
  REQUIRE(wait_until([&] { return !sheet->working(); }));
  w.find<QComboBox>("import_pieces")->setCurrentIndex(2);
  w.find<QLineEdit>("import_fixed")->setText("*_frame");
  fits->setCurrentItem(fits->topLevelItem(4));
  w.click("import_use");
  const Body* door = session.scene().find("door");
  REQUIRE(door);
  CHECK(door->breaking.into == Breaking::Into::parts);
  CHECK(door->breaking.held_parts == std::vector<std::uint32_t>{0});
  CHECK(pieces_of(door->shape, door->breaking)->pieces.size() == 3);

  const QString folder = w.copy.path() + "/meshes";
  REQUIRE(w.bench.save_as(folder));
  CHECK(fs::exists(folder.toStdString() + "/meshes/leaf_2.obj"));
  CHECK(open_folder(folder.toStdString()).scene == session.scene());

  std::ofstream(w.copy.path().toStdString() + "/bad.obj") << "v 1 2 nan\nf 1 1 1\n";
  CHECK_FALSE(sheet->open_file(w.copy.path() + "/bad.obj"));
  CHECK(w.find<QLabel>("notice_text")->text().contains("bad.obj"));
}

TEST_CASE("surfaces: a pair is shown as it bounces and slides, values are edited, refused ones are not") {
  Window w;
  Session& session = w.bench.session();
  w.click("tab_Surfaces");
  auto* list = w.find<QTreeWidget>("surfaces");
  REQUIRE(list->topLevelItemCount() == 9);
  list->setCurrentItem(list->findItems("rubber", Qt::MatchExactly).first());
  auto* drop = w.find<PairDrop>("pair_drop");
  CHECK(drop->rebound() == Approx(0.75 * 0.75).epsilon(0.02));
  const auto ice = list->findItems("ice", Qt::MatchExactly).first();
  list->setCurrentItem(ice);
  CHECK(drop->slid() > 7);  // 3 m/s on ice goes on
  list->findItems("oak", Qt::MatchExactly).first()->setText(4, "0.9");
  CHECK(session.scene().surfaces.at("oak").restitution == 0.9);
  list->findItems("oak", Qt::MatchExactly).first()->setText(4, "1.9");
  CHECK(session.scene().surfaces.at("oak").restitution == 0.9);
  list->findItems("oak", Qt::MatchExactly).first()->setText(0, "old_oak");
  CHECK(session.scene().surfaces.contains("old_oak"));
}

TEST_CASE("what is running keeps its names") {
  Window w("mooring-bell");
  w.bench.session().choose("bell");
  w.click("play");
  REQUIRE(w.play(2));
  auto* name = w.find<QLineEdit>("card_name");
  name->setReadOnly(false);
  w.type_number("card_name", "gong");
  CHECK(w.bench.session().scene().find("bell"));
  w.click("tab_Bodies");
  auto* table = w.find<QTableView>("bodies");
  table->model()->setData(table->model()->index(0, 0), "first", Qt::EditRole);
  CHECK_FALSE(w.bench.session().scene().find("first"));
}

TEST_CASE("a scene without scripts shows none of the one that was open before; groups are named on the card") {
  Window w("skerrow-quay");
  CHECK_FALSE(w.bench.desk()->editor()->text().isEmpty());
  w.bench.open_new();
  CHECK(w.bench.desk()->editor()->text().isEmpty());
  w.drop("box", {250, 300});
  w.click("more_how_does");
  QTest::qWait(20);
  auto* groups = w.find<QLineEdit>("card_groups");
  groups->setFocus();
  QTest::keyClicks(groups, "cargo, wet");
  QTest::keyClick(groups, Qt::Key_Return);
  CHECK(w.bench.session().scene().groups == std::vector<std::string>{"cargo", "wet"});
  CHECK(w.bench.session().scene().find("box")->groups == std::vector<std::string>{"cargo", "wet"});
}

TEST_CASE("views: straight on, remembered, followed") {
  Window w("skerrow-quay");
  Stage* stage = w.bench.stage();
  w.choose_from(w.find<QToolButton>("build_view"), "From the front");
  CHECK(stage->camera().view.straight);
  // Straight on, a metre is as long far away as near.
  const QPointF a = stage->pixel_of_point({0, 0, 0}), b = stage->pixel_of_point({0, 1, 0}),
                c = stage->pixel_of_point({0, 0, -9}), d = stage->pixel_of_point({0, 1, -9});
  CHECK(std::abs((a - b).y()) == Approx(std::abs((c - d).y())).epsilon(1e-4));
  w.choose_from(w.find<QToolButton>("build_view"), "Remember");
  CHECK(w.bench.session().scene().views.size() == 1);
  w.choose_from(w.find<QToolButton>("build_view"), "In perspective");
  CHECK_FALSE(stage->camera().view.straight);
  w.choose_from(w.find<QToolButton>("build_view"), "Follow");
  const Vec3 before = stage->camera().view.target;
  w.click("play");
  REQUIRE(w.play(60));
  const int frames = stage->frames_drawn();
  REQUIRE(wait_until([&] { return stage->frames_drawn() > frames + 1 || (stage->redraw(), false); }));
  CHECK((stage->camera().view.target - before).norm() > 0.2);
}

TEST_CASE("what was not saved is taken up again after a crash; what closes as it should leaves nothing") {
  Window w("mooring-bell");
  Session& session = w.bench.session();
  {
    Recovery recovery(session);
    session.edit("heavier", [](Scene& scene) { scene.find("bell")->mass = 321; });
    session.type_script("return_to_start.lua", "print(\"typed, not saved\")");
    recovery.keep_now();
    // As if that bench were gone: its number is no process any more.
    fs::path kept;
    for (const auto& one : fs::directory_iterator(Recovery::place().toStdString())) kept = one.path();
    REQUIRE(fs::exists(kept / "kept.json"));
    fs::copy(kept, kept.string() + "-gone", fs::copy_options::recursive);
    // Its process number is another program's by now: the first of the machine.
    std::ofstream(kept.string() + "-gone/bench.lock") << "1\nbronvel\n";
    // The bench that still runs looks after its own.
    CHECK(Recovery::left_over().size() == 1);
  }
  REQUIRE(Recovery::left_over().size() == 1);
  Window fresh("skerrow-quay");
  fresh.bench.offer_left_over();
  CHECK(fresh.find<QLabel>("notice_text")->text().contains("mooring-bell"));
  fresh.click("notice_yes");
  CHECK(fresh.bench.session().scene().find("bell")->mass == 321);
  CHECK(fresh.bench.session().scripts().at("return_to_start.lua").find("typed, not saved") != std::string::npos);
  CHECK_FALSE(fresh.bench.session().saved());
  CHECK(Recovery::left_over().empty());
  CHECK(fresh.bench.session().path() == session.path());
}
