// The row's words and menus.
#include "app/build/build_bar.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QToolButton>
#include <set>

#include "app/build/arrange_sheet.h"
#include "app/kit/theme.h"
#include "geometry/shapes/compound.h"
#include "scene/document/names.h"
#include "scene/edits/stamps.h"

namespace bronvel {
namespace {

QString counted(const BodyNames& names) {
  return names.size() == 1 ? QString::fromStdString(names[0]) : QString("%1 bodies").arg(names.size());
}

struct JointWords {
  JointKind kind;
  const char* tip;
};
constexpr JointWords joint_words[] = {
    {JointKind::hinge, "turns about one axis: a door, a crane's arm"},
    {JointKind::ball, "turns every way: a shackle, a shoulder"},
    {JointKind::slider, "moves along one axis: a bolt, a lift"},
    {JointKind::fixed, "does not move: glued, until it breaks"},
    {JointKind::distance, "keeps two points no farther apart than a length: a rope, a rod"},
    {JointKind::pulley, "a rope over two supports: what one side gives the other takes"},
    {JointKind::six_axis, "each way and turn free, limited or locked by itself"}};

}  // namespace

BuildBar::BuildBar(Session& session, Stage* stage, ArrangeSheet* arrange, QWidget* parent)
    : QFrame(parent), session_(session), stage_(stage), arrange_(arrange) {
  setObjectName("build_bar");
  setStyleSheet("#build_bar { background: " + theme::veil(225).name(QColor::HexArgb) + "; border: 1px solid " +
                theme::rule.name() +
                "; border-radius: 13px; } QToolButton { padding: 2px 9px; border-radius: 9px; } "
                "QToolButton::menu-indicator { image: none; }");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 2);
  row->setSpacing(1);

  auto* tie = new QMenu(this);
  tie->setToolTipsVisible(true);
  for (const JointWords& each : joint_words) {
    QString text = QString::fromStdString(joint_word(each.kind)).replace('_', ' ');
    if (each.kind == JointKind::distance) text = "distance or rope";
    tie->addAction(text, this, [this, kind = each.kind] { start_joint(kind); })->setToolTip(each.tip);
  }
  word("build_tie", "tie", "a joint between two bodies, or a body and the ground", tie);

  auto* zone = new QMenu(this);
  zone->addAction("box", this, [this] { add_zone(bronvel::Box{{3, 3, 3}}); });
  zone->addAction("sphere", this, [this] { add_zone(Sphere{2}); });
  zone->addAction("cylinder", this, [this] { add_zone(Cylinder{1.5, 3}); });
  word("build_zone", "zone", "a place that senses bodies and may change gravity and air", zone);

  auto* path =
      word("build_path", "path", "a curve for kinematic bodies to ride: click its points, Return ends it", nullptr);
  connect(path, &QToolButton::clicked, this, &BuildBar::start_path);

  arrange_menu_ = new QMenu(this);
  arrange_menu_->setObjectName("arrange_menu");
  arrange_menu_->setToolTipsVisible(true);
  connect(arrange_menu_, &QMenu::aboutToShow, this, [this] { fill_arrange(arrange_menu_); });
  word("build_arrange", "arrange", "copies, rows, aligning, grouping, stamps: for the chosen bodies", arrange_menu_);

  auto* snap = new QMenu(this);
  connect(snap, &QMenu::aboutToShow, this, [this, snap] { fill_snap(snap); });
  snap_ = word("build_snap", "snap", "what moves come to rest on; hold Ctrl while dragging to move freely", snap);
  show_snap();

  auto* view = new QMenu(this);
  connect(view, &QMenu::aboutToShow, this, [this, view] { fill_view(view); });
  word("build_view", "view", "from where the stage is seen", view);

  auto* measure =
      word("build_measure", "measure", "click two points: how far apart they are; Escape takes the line away", nullptr);
  connect(measure, &QToolButton::clicked, this, &BuildBar::start_measure);
  connect(&session_, &Session::play_state_changed, this, [this] { setVisible(session_.building()); });
  connect(stage_, &Stage::menu_asked, this, [this](const QPoint& at) {
    if (!session_.chosen_bodies().empty()) arrange_menu_->popup(at);
  });
}

QToolButton* BuildBar::word(const QString& name, const QString& text, const QString& tip, QMenu* menu) {
  auto* button = new QToolButton(this);
  button->setObjectName(name);
  button->setText(text);
  button->setFont(theme::words(12, QFont::Medium));
  button->setToolTip(tip);
  if (menu) {
    button->setMenu(menu);
    button->setPopupMode(QToolButton::InstantPopup);
  }
  layout()->addWidget(button);
  return button;
}

void BuildBar::attempt(const QString& name, const std::function<void(Scene&)>& change,
                       const std::function<BodyNames()>& then) {
  try {
    session_.edit(name, change);
    if (then) session_.choose_bodies(then());
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
}

void BuildBar::start_joint(JointKind kind) {
  Picking picking;
  const bool two_ends = kind == JointKind::distance || kind == JointKind::pulley;
  const QString word = QString::fromStdString(joint_word(kind)).replace('_', ' ');
  picking.hints = two_ends ? QStringList{word + ": click where it holds on to, a body or the ground",
                                         "and the point on the body that hangs on it"}
                           : QStringList{word + ": click the body that it hangs on, or the ground",
                                         "and the body that it holds, at the point where the two meet"};
  picking.done = [this, kind, two_ends](const std::vector<Pick>& picks) {
    Pick a = picks[0], b = picks[1];
    if (b.body.empty()) std::swap(a, b);
    if (b.body.empty()) throw std::runtime_error("a joint holds a body: click one of the two on a body");
    if (a.body == b.body) throw std::runtime_error("a joint ties two bodies: both clicks were on " + a.body);
    std::string name;
    session_.edit(QString::fromStdString("new " + joint_word(kind) + " of " + b.body), [&](Scene& scene) {
      SceneJoint joint;
      joint.kind = kind;
      joint.name = name = Names(scene).fresh(kind == JointKind::distance ? "rope" : joint_word(kind));
      joint.a = a.body;
      joint.b = b.body;
      const auto local = [&](const std::string& body, const Vec3& point) -> Vec3 {
        const Body* found = scene.find(body);
        return found ? Pose{found->position, found->orientation}.to_local(point) : point;
      };
      // One point, where the second click was; or two ends.
      joint.anchor_a = local(a.body, two_ends ? a.point : picks[1].point);
      joint.anchor_b = local(b.body, two_ends ? b.point : picks[1].point);
      const Body* holds = scene.find(a.body);
      const Quat turn = holds ? holds->orientation : Quat::Identity();
      // A hinge in the picture's plane turns about the scene's axis that points most at the eye; a slider goes up.
      Vec3 axis = Vec3::Unit(1);
      if (kind == JointKind::hinge) {
        const Vec3 eye = stage_->camera().forward();
        axis = std::abs(eye.x()) > std::abs(eye.z()) ? Vec3::Unit(0) : Vec3::Unit(2);
      }
      joint.axis = turn.conjugate() * axis;
      const double length = (a.point - b.point).norm();
      if (kind == JointKind::distance) joint.high = std::round(length * 1000) / 1000;
      if (kind == JointKind::pulley) {
        const double top = std::max(a.point.y(), b.point.y()) + 2;
        joint.support_a = {a.point.x(), top, a.point.z()};
        joint.support_b = {b.point.x(), top, b.point.z()};
        joint.high = (joint.support_a - a.point).norm() + (joint.support_b - b.point).norm();
      }
      scene.joints.push_back(joint);
    });
    session_.choose_thing(ThingKind::joint, name);
  };
  stage_->start_picking(std::move(picking));
}

void BuildBar::start_path() {
  Picking picking;
  picking.hints = {"path: click its first point", "click the next point; Return, or the last point again, ends it"};
  picking.wanted = 0;
  picking.done = [this](const std::vector<Pick>& picks) {
    ScenePath path;
    path.name = free_name(session_.scene().paths, "path");
    // Half a metre up, so that what rides it is not in the ground.
    for (const Pick& pick : picks) path.points.push_back(pick.point + Vec3(0, 0.5, 0));
    session_.edit(QString::fromStdString("new " + path.name), [&](Scene& scene) { scene.paths.push_back(path); });
    session_.choose_thing(ThingKind::path, path.name);
  };
  stage_->start_picking(std::move(picking));
}

void BuildBar::start_cut() {
  const std::string name = session_.chosen();
  Picking picking;
  picking.hints = {"cut: click where it begins on " + QString::fromStdString(name), "and where it ends"};
  picking.of = {name};
  picking.done = [this, name](const std::vector<Pick>& picks) {
    // The plane holds both points and the way one looks at the first.
    const Camera& camera = stage_->camera();
    const Vec3 look = camera.view.straight ? camera.forward() : Vec3((picks[0].point - camera.eye()).normalized());
    const Vec3 across = (picks[1].point - picks[0].point).cross(look);
    if (across.norm() < 1e-9) throw std::runtime_error("a cut wants two points beside each other");
    session_.edit(QString::fromStdString(name + ": a cut to break along"), [&](Scene& scene) {
      Body* body = scene.find(name);
      if (!body) return;
      const Pose pose{body->position, body->orientation};
      const Vec3 normal = (pose.orientation.conjugate() * across.normalized()).normalized();
      body->breaking.planes.push_back({normal, normal.dot(pose.to_local(picks[0].point))});
    });
  };
  stage_->start_picking(std::move(picking));
}

void BuildBar::start_measure() {
  Picking picking;
  picking.hints = {"measure: click the first point", "and the second"};
  picking.done = [this](const std::vector<Pick>& picks) {
    stage_->set_measure(std::pair(picks[0].point, picks[1].point));
  };
  stage_->start_picking(std::move(picking));
}

void BuildBar::add_zone(const bronvel::Shape& shape) {
  SceneZone zone;
  zone.name = free_name(session_.scene().zones, "zone");
  zone.shape = shape;
  const QPointF middle(0.5 * (stage_->width() - stage_->camera().covered_right), 0.5 * stage_->height());
  zone.position = stage_->place_at(middle).value_or(stage_->camera().view.target);
  for (int axis = 0; axis < 3; ++axis) zone.position[axis] = to_grid(zone.position[axis], stage_->snap().grid);
  zone.position.y() -= shape_bounds(shape, {}).low.y();
  session_.edit(QString::fromStdString("new " + zone.name), [&](Scene& scene) { scene.zones.push_back(zone); });
  session_.choose_thing(ThingKind::zone, zone.name);
}

void BuildBar::fill_arrange(QMenu* menu) {
  menu->clear();
  const BodyNames names = session_.chosen_bodies();
  const bool any = !names.empty(), several = names.size() > 1;
  if (!any) {
    menu->addAction("choose a body first")->setEnabled(false);
    return;
  }
  const QString what = counted(names);
  menu->addAction("Copy beside\tCtrl+D", this, [this] {
    QKeyEvent press(QEvent::KeyPress, Qt::Key_D, Qt::ControlModifier);
    QCoreApplication::sendEvent(stage_, &press);
  });
  menu->addAction("In a line…", this, [this] { arrange_->open(ArrangeSheet::What::line); });
  menu->addAction("In a grid…", this, [this] { arrange_->open(ArrangeSheet::What::grid); });
  menu->addAction("In a ring…", this, [this] { arrange_->open(ArrangeSheet::What::ring); });
  menu->addAction("Scatter…", this, [this] { arrange_->open(ArrangeSheet::What::scatter); });
  menu->addAction("Let down\tEnd", this,
                  [=, this] { attempt(what + ": let down", [&](Scene& scene) { let_down(scene, names); }); })
      ->setToolTip("straight down until it rests on something");
  menu->addSeparator();
  auto* align_menu = menu->addMenu("Align with " + QString::fromStdString(names.back()));
  align_menu->setEnabled(several);
  auto* space_menu = menu->addMenu("Space out");
  space_menu->setEnabled(names.size() > 2);
  const char* const axes = "xyz";
  for (int axis = 0; axis < 3; ++axis) {
    const QString letter = QString(QChar(axes[axis]));
    for (const auto& [side, words] : {std::pair(Side::low, axis == 1 ? "feet" : "low sides"),
                                      {Side::middle, "middles"},
                                      {Side::high, axis == 1 ? "tops" : "high sides"}})
      align_menu->addAction(QString("%1 along %2").arg(words, letter), this, [=, this, side = side] {
        attempt(what + ": align along " + letter, [&](Scene& scene) { align(scene, names, axis, side); });
      });
    space_menu->addAction("evenly along " + letter, this, [=, this] {
      attempt(what + ": space out along " + letter, [&](Scene& scene) { space_out(scene, names, axis); });
    });
  }
  menu->addSeparator();
  auto* group = menu->addAction("Make one body of them", this, [=, this] {
    std::string made;
    attempt(
        "one body of " + what, [&](Scene& scene) { made = group_bodies(scene, names); },
        [&] { return BodyNames{made}; });
  });
  group->setEnabled(several);
  group->setToolTip("a compound: it moves as one, and costs as one");
  const Body* last = session_.scene().find(names.back());
  auto* split = menu->addAction("Split into its parts", this, [=, this] {
    BodyNames made;
    attempt(
        "split " + what, [&](Scene& scene) { made = split_body(scene, names.back()); }, [&] { return made; });
  });
  split->setEnabled(last && std::holds_alternative<Compound>(last->shape));
  const bool locked = last && last->locked;
  menu->addAction(locked ? "Unlock" : "Lock where it is", this,
                  [=, this] {
                    attempt(what + (locked ? ": unlock" : ": lock"), [&](Scene& scene) {
                      for (const std::string& name : names)
                        if (Body* body = scene.find(name)) body->locked = !locked;
                    });
                  })
      ->setToolTip("locked bodies have no handles, so that nothing moves them by accident");
  menu->addSeparator();
  menu->addAction(
          "Make a stamp of it", this,
          [=, this] {
            const std::string name = free_name(session_.scene().stamps, names.front() + "_kit");
            attempt(QString::fromStdString("stamp " + name), [&](Scene& scene) { make_stamp(scene, names, name); });
            emit session_.said(QString::fromStdString(name) + " is on the shelf now; the page Scene can rename it");
          })
      ->setToolTip("an assembly to place again and again; copies follow it but where they differ");
  if (last && !last->stamped.copy.empty()) {
    const std::string copy = last->stamped.copy;
    menu->addAction("Free from its stamp", this, [=, this] {
      attempt(QString::fromStdString(copy + ": free"), [&](Scene& scene) { free_copy(scene, copy); });
    });
    menu->addAction("Choose the whole copy", this, [=, this] {
      BodyNames whole;
      for (const Body& body : session_.scene().bodies)
        if (body.stamped.copy == copy) whole.push_back(body.name);
      session_.choose_bodies(whole);
    });
  }
  auto* tagged = menu->addMenu("Choose by tag");
  std::set<std::string> tags;
  for (const Body& body : session_.scene().bodies) tags.insert(body.tags.begin(), body.tags.end());
  tagged->setEnabled(!tags.empty());
  for (const std::string& tag : tags)
    tagged->addAction(QString::fromStdString(tag), this, [this, tag] {
      BodyNames found;
      for (const Body& body : session_.scene().bodies)
        if (std::find(body.tags.begin(), body.tags.end(), tag) != body.tags.end()) found.push_back(body.name);
      session_.choose_bodies(found);
    });
  menu->addSeparator();
  menu->addAction("Remove\tDelete", this,
                  [=, this] { attempt("remove " + what, [&](Scene& scene) { remove_bodies(scene, names); }); });
}

void BuildBar::show_snap() {
  const SnapSettings& snap = stage_->snap();
  snap_->setText(snap.on ? QString("snap %1 m · %2°").arg(snap.grid).arg(snap.angle) : "no snapping");
}

void BuildBar::fill_snap(QMenu* menu) {
  menu->clear();
  SnapSettings& snap = stage_->snap();
  const auto choice = [&](QMenu* where, const QString& text, bool on, const std::function<void()>& act) {
    auto* action = where->addAction(text, this, [this, act] {
      act();
      show_snap();
      stage_->redraw();
      // The bar grows with its words.
      adjustSize();
    });
    action->setCheckable(true);
    action->setChecked(on);
  };
  choice(menu, "Snapping", snap.on, [&snap] { snap.on = !snap.on; });
  choice(menu, "To sides of other bodies", snap.faces, [&snap] { snap.faces = !snap.faces; });
  choice(menu, "Arrows along the body's own axes", snap.own_axes, [&snap] { snap.own_axes = !snap.own_axes; });
  menu->addSeparator();
  for (const double grid : {0.01, 0.05, 0.1, 0.25, 0.5, 1.0})
    choice(menu, QString("grid of %1 m").arg(grid), snap.grid == grid, [&snap, grid] {
      snap.grid = grid;
      snap.on = true;
    });
  menu->addSeparator();
  for (const double angle : {1.0, 5.0, 15.0, 45.0})
    choice(menu, QString("angles of %1°").arg(angle), snap.angle == angle, [&snap, angle] {
      snap.angle = angle;
      snap.on = true;
    });
}

void BuildBar::fill_view(QMenu* menu) {
  menu->clear();
  const auto look = [&](const QString& text, double turn, double tilt, bool straight) {
    menu->addAction(text, this, [=, this] { stage_->look_from(turn, tilt, straight); });
  };
  look("In perspective", 30, 14, false);
  look("From the front", 0, 0, true);
  look("From the side", 90, 0, true);
  look("From above", 0, 90, true);
  menu->addSeparator();
  menu->addAction("Frame what is chosen\tF", stage_, &Stage::frame_chosen);
  menu->addAction("Frame all\tA", stage_, &Stage::frame_all);
  const std::string chosen = session_.chosen();
  auto* follow = menu->addAction("Follow " + (chosen.empty() ? "the chosen body" : QString::fromStdString(chosen)),
                                 this, [this, chosen] { stage_->follow(stage_->followed() == chosen ? "" : chosen); });
  follow->setEnabled(!chosen.empty());
  follow->setCheckable(true);
  follow->setChecked(!chosen.empty() && stage_->followed() == chosen);
  menu->addSeparator();
  for (const NamedView& view : session_.scene().views) {
    auto* one = menu->addMenu(QString::fromStdString(view.name));
    one->addAction("Look from there", this, [this, where = view.view] { stage_->set_view(where); });
    one->addAction("Forget it", this, [this, name = view.name] {
      session_.edit(QString::fromStdString("forget view " + name), [&](Scene& scene) {
        std::erase_if(scene.views, [&](const NamedView& each) { return each.name == name; });
      });
    });
  }
  menu->addAction("Remember this view", this, [this] {
    const std::string name = free_name(session_.scene().views, "view");
    session_.edit(QString::fromStdString("remember " + name), [&](Scene& scene) {
      scene.views.push_back({name, stage_->camera().view});
    });
  });
  menu->addAction("Begin with this view", this, [this] {
    session_.edit("begin with this view", [&](Scene& scene) { scene.view = stage_->camera().view; });
  });
}

}  // namespace bronvel
