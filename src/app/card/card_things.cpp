// The card of what is no body: joints, zones, paths.
#include <QLineEdit>
#include <algorithm>

#include "app/card/card.h"
#include "app/card/card_words.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/curve.h"
#include "geometry/base/error.h"
#include "scene/document/joint_axes.h"

namespace bronvel {

void Card::add_joint() {
  const SceneJoint& joint = *session_.chosen_joint();
  add_head(QString::fromStdString(joint.name), (joint.a.empty() ? QString("ground") : QString::fromStdString(joint.a)) +
                                                   " – " + QString::fromStdString(joint.b));
  const JointKind kind = joint.kind;
  const bool turns = kind == JointKind::hinge || kind == JointKind::ball;
  const bool has_axis = turns || kind == JointKind::slider || kind == JointKind::six_axis;
  const auto wanted = [&](const std::string& name) {
    const auto any_of = [&](std::initializer_list<const char*> names) {
      return std::any_of(names.begin(), names.end(), [&](const char* each) { return name == each; });
    };
    if (any_of({"kind", "bodies_meet", "breaks_at_force", "breaks_at_torque", "anchor_a", "anchor_b"})) return true;
    if (name == "axis") return has_axis;
    if (any_of({"low", "high"})) return kind != JointKind::fixed && kind != JointKind::six_axis;
    if (name == "cone") return kind == JointKind::ball;
    if (any_of({"stiffness", "damping", "rest"}))
      return kind == JointKind::hinge || kind == JointKind::slider || kind == JointKind::distance;
    if (any_of({"motor_speed", "motor_most"})) return kind == JointKind::hinge || kind == JointKind::slider;
    if (name == "pay_out") return kind == JointKind::distance;
    return kind == JointKind::pulley && any_of({"support_a", "support_b", "ratio"});
  };
  rows_->add_question("Right now");
  holds_ = add_lane_reading("reaction", "N", "reaction", "how hard it holds");
  travel_ = add_lane_reading("travel", turns ? "rad" : "m", "travel", "angle, way or length");
  rate_ = add_lane_reading("rate", turns ? "rad/s" : "m/s", "rate", "how fast that changes");
  std::string group;
  for (const JointProperty* listed : by_question(joint_properties())) {
    const JointProperty& property = *listed;
    if (!wanted(property.name)) continue;
    if (property.group != group) rows_->add_question(QString::fromStdString(group = property.group));
    RowSource source;
    source.info = property;
    const bool angle = turns && (property.name == "low" || property.name == "high" || property.name == "rest");
    if (angle || property.name == "cone") {
      source.scale = 180 / pi;
      source.info.unit = "°";
    } else if (property.name == "low" || property.name == "high" || property.name == "rest") {
      source.info.unit = "m";
    } else if (property.name == "motor_speed") {
      source.info.unit = turns ? "rad/s" : "m/s";
    } else if (property.name == "motor_most") {
      source.info.unit = turns ? "N·m" : "N";
    } else if (property.name == "stiffness") {
      source.info.unit = turns ? "N·m" : "N/m";
    } else if (property.name == "damping") {
      source.info.unit = turns ? "N·m·s" : "N·s/m";
    }
    add_setting(std::move(source), {SettingOf::joint, joint.name, property.name});
  }
  if (kind == JointKind::six_axis) add_axes();
}

// A row of what the place names, in the running play too.
void Card::add_setting(RowSource source, const SettingPlace& place) {
  source.values = [this, place] {
    std::vector<Value> values;
    session_.with_settings([&](const Scene& scene) {
      if (in_scene(scene, place)) values.push_back(value_at(scene, place));
    });
    return values;
  };
  source.before = [this, place] { return value_at(session_.scene(), place); };
  source.from_next_play = [this, place] { return session_.from_next_play(place); };
  source.change = [this, place](const std::function<Value(const Value&)>& make) {
    Value now;
    session_.with_settings([&](const Scene& scene) { now = value_at(scene, place); });
    session_.set_value(place, make(now));
  };
  rows_->add(source);
}

std::vector<std::string> Card::axis_freedoms(const SceneJoint& joint) const {
  std::vector<std::string> freedoms;
  if (joint.kind != JointKind::six_axis) return freedoms;
  session_.with_settings([&](const Scene& scene) {
    for (const char* axis : axis_names) {
      const Value freedom = value_at(scene, {SettingOf::joint, joint.name, std::string(axis) + ".freedom"});
      if (const auto* word = std::get_if<std::string>(&freedom)) freedoms.push_back(*word);
    }
  });
  return freedoms;
}

// The six axes of a joint: whether each is locked, limited or free, and what pulls along it.
void Card::add_axes() {
  const SceneJoint& joint = *session_.chosen_joint();
  const std::vector<std::string> freedoms = axis_freedoms(joint);
  if (freedoms.size() != axis_names.size()) return;
  rows_->add_question("How free is each axis?");
  const std::size_t each = axis_properties().size() / axis_names.size();
  for (std::size_t i = 0; i < axis_properties().size(); ++i) {
    const JointProperty& property = axis_properties()[i];
    const std::string& freedom = freedoms[i / each];
    const bool limit = property.name.ends_with(".low") || property.name.ends_with(".high");
    if (!property.name.ends_with(".freedom") && (freedom == "locked" || (limit && freedom != "limited"))) continue;
    RowSource source;
    source.info = property;
    std::replace(source.info.name.begin(), source.info.name.end(), '.', '_');
    add_setting(std::move(source), {SettingOf::joint, joint.name, property.name});
  }
}

void Card::add_zone() {
  const SceneZone& zone = *session_.chosen_zone();
  add_head(QString::fromStdString(zone.name), "zone · " + QString::fromStdString(shape_word(zone.shape)));
  rows_->add_question("What is it?");
  for (const ZoneProperty& property : zone_form_properties()) {
    if (std::holds_alternative<std::monostate>(property.get(zone))) continue;
    if (property.kind == PropertyKind::text) continue;
    RowSource source;
    source.info = property;
    source.info.kind = PropertyKind::number;
    add_setting(std::move(source), {SettingOf::zone, zone.name, property.name});
  }
  auto* tags = new QLineEdit(joined(zone.tags), rows_->inside());
  tags->setObjectName("card_zone_tags");
  tags->setPlaceholderText("senses all bodies; tags: only those");
  tags->setFont(theme::numbers(12));
  tags->setToolTip("bodies with one of these tags; none named: all");
  connect(tags, &QLineEdit::editingFinished, this,
          [this, tags, place = SettingPlace{SettingOf::zone, zone.name, "tags"}] {
            if (!tags->isModified()) return;
            tags->setModified(false);
            attempt([&] { session_.set_value(place, tags->text().toStdString()); });
          });
  rows_->add_wide(tags);
  std::string group;
  for (const ZoneProperty& property : zone_properties()) {
    if (property.group != group) rows_->add_question(QString::fromStdString(group = property.group));
    RowSource source;
    source.info = property;
    add_setting(std::move(source), {SettingOf::zone, zone.name, property.name});
  }
}

void Card::add_path() {
  const ScenePath& path = *session_.chosen_path();
  add_head(QString::fromStdString(path.name), QString("path · %1 points").arg(path.points.size()));
  const auto change_path = [this](const QString& what, const std::function<void(ScenePath&)>& change) {
    const ScenePath* now = session_.chosen_path();
    if (!now) return;
    const std::string name = now->name;
    session_.edit(QString::fromStdString(name) + ": " + what, [&](Scene& scene) {
      for (ScenePath& each : scene.paths)
        if (each.name == name) {
          change(each);
          static_cast<void>(Curve(each.points, each.smooth, each.closed));  // says what does not fit
        }
    });
  };
  rows_->add_question("How does it run?");
  for (const bool smooth : {true, false}) {
    RowSource source;
    source.info = property_info(
        PropertyKind::flag, smooth ? "smooth" : "closed", smooth ? "smooth" : "closed", "",
        smooth ? "rounds its points; off: straight from point to point" : "the last point leads back to the first");
    source.values = [this, smooth] {
      const ScenePath* now = session_.chosen_path();
      std::vector<Value> values;
      if (now) values.push_back(Value(smooth ? now->smooth : now->closed));
      return values;
    };
    source.change = [=](const std::function<Value(const Value&)>& make) {
      change_path(smooth ? "smooth" : "closed",
                  [&](ScenePath& each) { (smooth ? each.smooth : each.closed) = std::get<bool>(make(Value())); });
    };
    rows_->add(source);
  }
  QLabel* length = rows_->add_reading("length", "m", "along the curve");
  length->setText(short_number(Curve(path.points, path.smooth, path.closed).length()));
  rows_->add_question("Through which points?");
  for (std::size_t i = 0; i < path.points.size(); ++i) {
    RowSource source;
    source.info = property_info(PropertyKind::vector, ("point" + std::to_string(i)), std::to_string(i + 1), "m",
                                "a point of the path");
    source.values = [this, i] {
      const ScenePath* now = session_.chosen_path();
      std::vector<Value> values;
      if (now && i < now->points.size()) values.push_back(Value(now->points[i]));
      return values;
    };
    source.change = [=](const std::function<Value(const Value&)>& make) {
      change_path(QString("point %1").arg(i + 1), [&](ScenePath& each) {
        if (i < each.points.size()) each.points[i] = std::get<Vec3>(make(Value(each.points[i])));
      });
    };
    rows_->add(source);
  }
  rows_->add_wide(
      theme::label(theme::words(11), theme::faint_ink, rows_->inside(),
                   "kinematic bodies ride it: body:ride(\"" + QString::fromStdString(path.name) + "\", …)"));
}

}  // namespace bronvel
