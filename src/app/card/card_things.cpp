// The card of what is no body: joints, zones, paths.
#include <QLineEdit>
#include <QTimer>

#include "app/card/card.h"
#include "app/card/card_words.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/curve.h"
#include "geometry/base/error.h"
#include "geometry/shapes/sized.h"
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
    source.values = [this, &property] {
      const SceneJoint* now = session_.chosen_joint();
      std::vector<Value> values;
      if (now) values.push_back(property.get(*now));
      return values;
    };
    source.change = [this, &property](const std::function<Value(const Value&)>& make) {
      const SceneJoint* now = session_.chosen_joint();
      if (!now) return;
      if (session_.play_state() != Session::PlayState::editing)
        throw Error("", "a joint can't be changed here while it plays", "stop first, or set it in a script");
      const Value value = make(property.get(*now));
      const std::string name = now->name, fault = value_fault(property, value);
      if (!fault.empty()) throw Error(name + "." + property.name, fault);
      session_.edit(QString::fromStdString(name + ": " + property.label + " " + value_text(value)), [&](Scene& scene) {
        for (SceneJoint& each : scene.joints) {
          if (each.name != name) continue;
          property.set(each, value);
          JointSettings settings = settings_of(scene, each);
          settings.b.index = 0;  // any body will do to check the rest
          if (const auto wrong = joint_fault(settings)) throw Error(name, *wrong);
        }
      });
    };
    rows_->add(source);
  }
  if (kind == JointKind::six_axis) add_axes();
}

// The six axes of a joint: whether each is locked, limited or free, and what pulls along it.
void Card::add_axes() {
  const auto row = [this](std::size_t axis, const PropertyInfo& about,
                          const std::function<Value(const JointAxis&)>& get,
                          const std::function<void(JointAxis&, const Value&)>& set) {
    RowSource source;
    source.info = about;
    source.values = [this, axis, get] {
      std::vector<Value> values;
      if (const SceneJoint* now = session_.chosen_joint()) values.push_back(get(now->axes[axis]));
      return values;
    };
    source.change = [this, axis, get, set, label = about.label](const std::function<Value(const Value&)>& make) {
      const SceneJoint* now = session_.chosen_joint();
      if (!now) return;
      const std::string name = now->name;
      session_.edit(QString::fromStdString(name + ": " + axis_names[axis] + " " + label), [&](Scene& scene) {
        for (SceneJoint& each : scene.joints) {
          if (each.name != name) continue;
          set(each.axes[axis], make(get(each.axes[axis])));
          JointSettings settings = settings_of(scene, each);
          settings.b.index = 0;
          if (const auto wrong = joint_fault(settings)) throw Error(name, *wrong);
        }
      });
      QTimer::singleShot(0, this, &Card::rebuild);
    };
    rows_->add(source);
  };
  const SceneJoint& joint = *session_.chosen_joint();
  rows_->add_question("How free is each axis?");
  for (std::size_t axis = 0; axis < 6; ++axis) {
    const std::string name = axis_names[axis];
    PropertyInfo freedom =
        property_info(PropertyKind::word, name, std::string(axis < 3 ? "move " : "turn ") + name.back(), "",
                      "locked, limited by a least and a greatest, or free");
    for (const char* word : freedom_words) freedom.words.emplace_back(word);
    row(
        axis, freedom,
        [](const JointAxis& a) { return Value(std::string(freedom_words[static_cast<std::size_t>(a.freedom)])); },
        [](JointAxis& a, const Value& value) {
          const auto* found = std::find(freedom_words.begin(), freedom_words.end(), std::get<std::string>(value));
          a.freedom = static_cast<Freedom>(found - freedom_words.begin());
        });
    if (joint.axes[axis].freedom == Freedom::locked) continue;
    for (const AxisNumber& number : axis_numbers) {
      const bool limit = std::string(number.name) == "low" || std::string(number.name) == "high";
      if (limit && joint.axes[axis].freedom != Freedom::limited) continue;
      row(
          axis,
          property_info(PropertyKind::number, name + "_" + number.name, "  " + std::string(number.name),
                        axis < 3 ? "m" : "rad", "of this axis"),
          [field = number.field](const JointAxis& a) { return Value(a.*field); },
          [field = number.field](JointAxis& a, const Value& value) { a.*field = std::get<double>(value); });
    }
  }
}

void Card::add_zone() {
  const SceneZone& zone = *session_.chosen_zone();
  add_head(QString::fromStdString(zone.name), "zone · " + QString::fromStdString(shape_word(zone.shape)));
  const auto change_zone = [this](const QString& what, const std::function<void(SceneZone&)>& change) {
    const SceneZone* now = session_.chosen_zone();
    if (!now) return;
    if (session_.play_state() != Session::PlayState::editing)
      throw Error("", "a zone can't be changed here while it plays", "stop first, or set it in a script");
    const std::string name = now->name;
    session_.edit(QString::fromStdString(name) + ": " + what, [&](Scene& scene) {
      for (SceneZone& each : scene.zones)
        if (each.name == name) {
          change(each);
          if (const auto fault = zone_fault(settings_of(scene, each))) throw Error(name, *fault);
        }
    });
  };
  rows_->add_question("What is it?");
  const std::vector<ShapeSize> sizes = shape_sizes(zone.shape);
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    RowSource source;
    source.info = property_info(PropertyKind::number, ("size" + std::to_string(i)), sizes[i].name, "m", "of the zone");
    source.values = [this, i] {
      const SceneZone* now = session_.chosen_zone();
      std::vector<Value> values;
      if (now) values.push_back(size_value(now->shape, i));
      return values;
    };
    source.change = [=, this](const std::function<Value(const Value&)>& make) {
      change_zone("size", [&](SceneZone& each) {
        each.shape = with_size(each.shape, i, std::get<double>(make(Value(size_of(each.shape, i).value))));
      });
    };
    rows_->add(source);
  }
  auto* tags = new QLineEdit(joined(zone.tags), rows_->inside());
  tags->setObjectName("card_zone_tags");
  tags->setPlaceholderText("senses all bodies; tags: only those");
  tags->setFont(theme::numbers(12));
  tags->setToolTip("bodies with one of these tags; none named: all");
  connect(tags, &QLineEdit::editingFinished, this, [=, this] {
    if (!tags->isModified()) return;
    tags->setModified(false);
    attempt([&] { change_zone("tags", [&](SceneZone& each) { each.tags = split_names(tags->text()); }); });
  });
  rows_->add_wide(tags);
  std::string group;
  for (const ZoneProperty& property : zone_properties()) {
    if (property.group != group) rows_->add_question(QString::fromStdString(group = property.group));
    RowSource source;
    source.info = property;
    source.values = [this, &property] {
      const SceneZone* now = session_.chosen_zone();
      std::vector<Value> values;
      if (now) values.push_back(property.get(*now));
      return values;
    };
    source.change = [=, this, &property](const std::function<Value(const Value&)>& make) {
      const SceneZone* now = session_.chosen_zone();
      if (!now) return;
      const Value value = make(property.get(*now));
      if (const std::string fault = value_fault(property, value); !fault.empty())
        throw Error(now->name + "." + property.name, fault);
      change_zone(QString::fromStdString(property.label + " " + value_text(value)),
                  [&](SceneZone& each) { property.set(each, value); });
    };
    rows_->add(source);
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
