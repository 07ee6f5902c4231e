// Building and filling the card.
#include "app/card/card.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QScrollBar>
#include <QSlider>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <exception>

#include "app/card/card_words.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/why.h"
#include "geometry/base/error.h"
#include "geometry/shapes/sized.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/edits/stamps.h"
#include "scene/properties/aspects.h"

namespace bronvel {
namespace {

constexpr int card_width = 284;

// What is on the card at first; "more" at a question shows the rest.
const std::set<std::string> usual{"position",     "orientation", "mass",        "gravity_factor",   "surface",
                                  "restitution",  "friction",    "drag_area",   "linear_damping",   "angular_damping",
                                  "breaks_into",  "pieces",      "piece_seed",  "brick_length",     "brick_height",
                                  "plank_length", "pane_rings",  "pane_spokes", "tension_strength", "held_pieces"};

constexpr const char* breaking_question = "When does it break?";
constexpr const char* place_question = "Where is it?";

// Whether the property says anything of a body that breaks into that.
bool of_this_breaking(const std::string& property, Breaking::Into into) {
  using Into = Breaking::Into;
  if (property == "breaks_into") return true;
  if (into == Into::nothing) return property == "toughness";
  if (property == "pieces") return into == Into::cells || into == Into::planks;
  if (property == "piece_seed") return into == Into::cells || into == Into::planks || into == Into::pane;
  if (property == "piece_crowding") return into == Into::cells;
  if (property == "piece_near") return into == Into::cells || into == Into::pane;
  if (property == "piece_unevenness") return into == Into::planks || into == Into::pane;
  if (property.starts_with("brick_")) return into == Into::bricks;
  if (property == "plank_length") return into == Into::planks;
  if (property.starts_with("pane_")) return into == Into::pane;
  return true;
}

QToolButton* link(const QString& name, const QString& text, const QString& tip, QWidget* parent) {
  auto* button = new QToolButton(parent);
  button->setObjectName(name);
  button->setText(text);
  button->setFont(theme::words(11, QFont::Medium));
  button->setToolTip(tip);
  button->setStyleSheet("QToolButton { color: " + theme::chosen.name() + "; padding: 1px 3px; text-align: left; }");
  return button;
}

QString counted(const BodyNames& names) {
  return names.size() == 1 ? QString::fromStdString(names[0]) : QString("%1 bodies").arg(names.size());
}

}  // namespace

Card::Card(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("card");
  setStyleSheet("#card { background: " + theme::sheet.name() + "; border-left: 1px solid " + theme::rule.name() +
                "; } #card_head { border-bottom: 2px solid " + theme::chosen.name() +
                "; } QLineEdit#card_name { background: transparent; border: none; padding: 0; } "
                "QLineEdit#card_name:focus { background: " +
                theme::well.name() + "; border-radius: 4px; }");
  setMinimumWidth(static_cast<int>(std::lround(card_width * theme::type_scale)));
  setMaximumWidth(card_width + 120);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(1, 1, 1, 1);
  column_->setSpacing(0);
  nothing_ =
      theme::label(theme::words(12), theme::faint_ink, this,
                   "Nothing is chosen.\n\nClick a body on the stage, or a row under Bodies: what it is, how it moves "
                   "and all that can be set of it stands here.");
  nothing_->setWordWrap(true);
  nothing_->setAlignment(Qt::AlignTop);
  nothing_->setContentsMargins(14, 14, 14, 14);
  column_->addWidget(nothing_, 1);
  auto* head = new QFrame(this);
  head_ = head;
  head->setObjectName("card_head");
  auto* row = new QHBoxLayout(head);
  row->setContentsMargins(12, 7, 11, 5);
  name_ = new QLineEdit(head);
  name_->setObjectName("card_name");
  name_->setFont(theme::words(14, QFont::Bold));
  name_->setToolTip("its name; type another to rename it everywhere");
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    if (name_->isModified()) rename(name_->text().trimmed());
  });
  row->addWidget(name_, 1);
  kind_ = theme::label(theme::words(11), theme::faint_ink, head);
  row->addWidget(kind_);
  column_->addWidget(head);
  scroll_ = new QScrollArea(this);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->viewport()->setAutoFillBackground(false);
  scroll_->setStyleSheet("QScrollArea { background: transparent; }");
  column_->addWidget(scroll_, 1);
  connect(&session_, &Session::chosen_changed, this, &Card::show_chosen);
  connect(&session_, &Session::opened, this, &Card::rebuild);
  connect(&session_, &Session::values_changed, this, &Card::renew);
  connect(&session_, &Session::play_state_changed, this, &Card::renew);
  connect(&session_, &Session::refreshed, this, &Card::show_readings);
  connect(&session_.why(), &Why::changed, this, &Card::show_acting);
  connect(&session_.why(), &Why::pointed_changed, this, &Card::show_acting);
  rebuild();
}

void Card::begin_with_sizes() {
  for (NumberField* field : findChildren<NumberField*>())
    if (field->objectName().startsWith("card_size")) {
      field->setFocus();
      field->selectAll();
      return;
    }
}

void Card::attempt(const std::function<void()>& change) {
  try {
    change();
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
  renew();
}

// What decides which rows there are: when it changes, they are made anew. Rows that are alike serve one body after
// another.
std::string Card::structure() const {
  std::string text = std::to_string(static_cast<int>(session_.chosen_kind()));
  if (const SceneJoint* joint = session_.chosen_joint()) {
    text += joint->name + joint_word(joint->kind);
    for (const std::string& freedom : axis_freedoms(*joint)) text += freedom;
    return text;
  }
  if (const SceneZone* zone = session_.chosen_zone()) return text + zone->name + shape_word(zone->shape);
  if (const ScenePath* path = session_.chosen_path()) return text + path->name + std::to_string(path->points.size());
  const std::vector<const Body*> bodies = session_.chosen_in_document();
  for (const Body* body : bodies) {
    text += static_cast<char>('a' + static_cast<int>(body->breaking.into));
    text += std::to_string(body->breaking.planes.size());
    text += shape_word(body->shape) + ' ';
    text += static_cast<char>('0' + static_cast<int>(body->kind));
  }
  text += "/" + std::to_string(session_.scene().surfaces.size()) + (session_.building() ? "" : ", acting");
  if (bodies.size() > 1) return text + session_.chosen();
  if (bodies.empty()) return session_.made_in_play() ? "made in play " + session_.chosen() : "";
  // What only this one body has rows for.
  const Body& body = *bodies[0];
  const bool own_rows = !more_.empty() || body.looks || !body.stamped.copy.empty();
  if (own_rows) text += body.name + body.stamped.copy;
  for (const SceneJoint& joint : session_.scene().joints)
    if (joint.a == body.name || joint.b == body.name) text += "," + joint.name + joint.a + joint.b;
  return text;
}

void Card::show_chosen() {
  if (rows_ && has_content_ && session_.chosen_in_document().size() == 1 && structure() == built_for_) {
    add_body_head();
    rows_->renew();
    show_pieces();
    show_readings();
    return;
  }
  rebuild();
}

void Card::add_body_head() {
  const std::vector<const Body*> bodies = session_.chosen_in_document();
  const Body& first = *bodies[0];
  const auto alike = [&](const auto& text) {
    return std::all_of(bodies.begin(), bodies.end(), [&](const Body* body) { return text(*body) == text(first); });
  };
  const auto shape_of = [](const Body& body) { return shape_word(body.shape); };
  const auto kind_of = [](const Body& body) { return kind_word(body.kind); };
  add_head(bodies.size() == 1 ? QString::fromStdString(first.name) : QString("%1 bodies").arg(bodies.size()),
           (alike(kind_of) ? QString::fromStdString(kind_word(first.kind)) : QString("mixed kinds")) + " · " +
               (alike(shape_of) ? QString::fromStdString(shape_of(first)).replace('_', ' ') : QString("mixed shapes")));
}

void Card::rebuild() {
  // The card stays where it was while it is of the same thing, whatever rows come and go.
  const std::string now = std::to_string(static_cast<int>(session_.chosen_kind())) + session_.chosen_thing();
  const int scrolled = shown_ == now ? scroll_->verticalScrollBar()->value() : 0;
  shown_ = now;
  causes_.clear();
  reason_ = nullptr;
  speed_ = height_ = energy_ = weight_ = place_ = state_ = pieces_ = holds_ = travel_ = rate_ = where_ = nullptr;
  built_for_ = structure();
  if (rows_) {
    // The press that asked for this may still be inside a row.
    scroll_->takeWidget()->deleteLater();
    rows_->deleteLater();
  }
  rows_ = new PropertyRows(session_, nullptr);
  rows_->setParent(this);
  rows_->inside()->setAutoFillBackground(false);
  scroll_->setWidget(rows_->inside());
  rows_->inside()->setAutoFillBackground(false);
  const bool bodies = !session_.chosen_in_document().empty();
  const std::optional<Body> made = bodies ? std::nullopt : session_.made_in_play();
  const bool any = bodies || made || session_.chosen_joint() || session_.chosen_zone() || session_.chosen_path();
  has_content_ = any;
  for (QWidget* part : {head_, static_cast<QWidget*>(scroll_)}) part->setVisible(any);
  nothing_->setVisible(!any);
  if (!any) return;
  if (session_.chosen_joint())
    add_joint();
  else if (session_.chosen_zone())
    add_zone();
  else if (session_.chosen_path())
    add_path();
  else if (made)
    add_made_in_play(*made);
  else
    add_bodies();
  // A layout counts only what is shown.
  for (QWidget* child : rows_->inside()->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) child->show();
  renew();
  show_readings();
  show_acting();
  // It knows how far it can go only when the rows have their places, and they shall have them now: who asks again
  // before the toolkit came to it would find the card at its top.
  column_->activate();
  QEvent places(QEvent::LayoutRequest);
  QCoreApplication::sendEvent(scroll_, &places);
  scroll_->verticalScrollBar()->setValue(scrolled);
}

void Card::renew() {
  if (structure() != built_for_) {
    QTimer::singleShot(0, this, [this] {
      if (structure() != built_for_) rebuild();
    });
    return;
  }
  if (!isVisible() && !isVisibleTo(parentWidget())) return;
  rows_->renew();
  show_pieces();
  show_readings();
}

void Card::rename(const QString& name) {
  name_->setModified(false);
  const std::string to = name.toStdString(), from = session_.chosen_thing();
  const ThingKind kind = session_.chosen_kind();
  if (to == from || session_.chosen_bodies().size() > 1) return;
  attempt([&] {
    if (session_.play_state() != Session::PlayState::editing)
      throw Error(from, "can't be called otherwise while it plays", "stop first");
    session_.edit(QString::fromStdString(from + ": call it " + to), [&](Scene& scene) {
      if (kind == ThingKind::body) return rename_body(scene, from, to);
      if (kind == ThingKind::joint) return rename_joint(scene, from, to);
      if (const std::string fault = name_fault(to); !fault.empty()) throw Error(from, "a name " + fault);
      const auto call = [&](auto& things) {
        for (const auto& each : things)
          if (each.name == to) throw Error(from, "can't be called " + to + ", which is taken");
        for (auto& each : things)
          if (each.name == from) each.name = to;
      };
      if (kind == ThingKind::zone) call(scene.zones);
      if (kind == ThingKind::path) call(scene.paths);
      rename_in_dials(scene, kind == ThingKind::zone ? NamedKind::zone : NamedKind::path, from, to);
      rename_in_wishes(scene.checks, from, to);
    });
    session_.choose_thing(kind, to);
  });
  name_->setText(QString::fromStdString(session_.chosen_thing()));
}

void Card::add_head(const QString& name, const QString& what) {
  name_->setText(name);
  name_->setReadOnly(session_.chosen_bodies().size() > 1 || session_.play_state() != Session::PlayState::editing);
  kind_->setText(what);
}

void Card::add_body_property(const Property& property) {
  RowSource source;
  source.info = property;
  source.values = [this, &property] { return session_.chosen_values(property); };
  if (session_.chosen_bodies().size() == 1 && property.name != "position" && property.name != "orientation")
    source.before = [this, &property] {
      const Body* body = session_.scene().find(session_.chosen());
      return body ? property.get(*body) : Value();
    };
  if (property.name == "restitution" || property.name == "friction")
    source.hint = [this, friction = property.name == "friction"] {
      const Surface surface = session_.surface_now(session_.chosen());
      return short_number(friction ? surface.static_friction : surface.restitution);
    };
  if (property.name == "surface") {
    source.choices.emplace_back("");
    for (const auto& [word, surface] : session_.scene().surfaces)
      source.choices.push_back(QString("%1\tμ %2  e %3")
                                   .arg(QString::fromStdString(word))
                                   .arg(surface.static_friction)
                                   .arg(surface.restitution));
  }
  const PropertyKind kind = property.kind;
  if (kind == PropertyKind::number || kind == PropertyKind::optional_number || kind == PropertyKind::vector ||
      kind == PropertyKind::optional_vector)
    source.lane = [this, name = QString::fromStdString(property.name)] {
      return QString::fromStdString(session_.chosen()) + "." + name;
    };
  source.change = [this, &property](const std::function<Value(const Value&)>& make) {
    const BodyNames names = session_.chosen_bodies();
    if (names.size() == 1) {
      session_.set_value(names[0], property, make(session_.value(names[0], property)));
      return;
    }
    session_.set_values(names, property, counted(names) + ": " + QString::fromStdString(property.label),
                        [&](const Body& body) { return make(property.get(body)); });
  };
  rows_->add(source);
}

void Card::add_shape() {
  const std::vector<const Body*> bodies = session_.chosen_in_document();
  const std::string word = shape_word(bodies[0]->shape);
  for (const Body* body : bodies)
    if (shape_word(body->shape) != word) return;
  const std::vector<ShapeSize> sizes = shape_sizes(bodies[0]->shape);
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    RowSource source;
    source.info = property_info(PropertyKind::number, ("size" + std::to_string(i)), sizes[i].name, "m",
                                "of the shape; the mass follows, with the same density");
    source.info.low = 0;
    source.values = [this, i] {
      std::vector<Value> values;
      for (const Body* body : session_.chosen_in_document()) {
        values.push_back(size_value(body->shape, i));
      }
      return values;
    };
    source.change = [this, i](const std::function<Value(const Value&)>& make) {
      if (session_.play_state() != Session::PlayState::editing)
        throw Error("", "a shape can't be changed while it plays", "stop first");
      const BodyNames names = session_.chosen_bodies();
      const Body* first = names.empty() ? nullptr : session_.scene().find(names[0]);
      if (!first) return;
      session_.edit(counted(names) + ": " + size_of(first->shape, i).name, [&](Scene& scene) {
        for (const std::string& name : names) {
          Body* body = scene.find(name);
          if (!body) continue;
          const double now = size_of(body->shape, i).value;
          const Value value = make(Value(now));
          if (body->looks) {
            resize_body(scene, name, Vec3::Constant(std::get<double>(value) / now));
          } else {
            reshape_body(scene, name, with_size(body->shape, i, std::get<double>(value)), true);
          }
        }
      });
    };
    rows_->add(source);
  }
}

void Card::add_bodies() {
  const std::vector<const Body*> bodies = session_.chosen_in_document();
  const Body& first = *bodies[0];
  const bool one = bodies.size() == 1;
  add_body_head();
  const bool dynamic =
      std::any_of(bodies.begin(), bodies.end(), [](const Body* b) { return b->kind == MotionKind::dynamic; });

  const auto question = [&](const std::string& text, bool has_more) {
    if (!has_more) {
      rows_->add_question(QString::fromStdString(text));
      return true;
    }
    const bool open = more_.contains(text);
    QLabel* head = rows_->add_question(
        QString::fromStdString(text),
        [this, text, open] {
          if (open)
            more_.erase(text);
          else
            more_.insert(text);
          rebuild();
        },
        open);
    if (text == place_question) where_ = head;
    return open;
  };

  // Words that are typed: tags, colour, groups.
  const auto text_row = [&](const char* object, const char* label, const char* tip, const QString& now,
                            const std::function<void(Scene&, Body&, const QString&)>& set) {
    auto* line = new QWidget(rows_->inside());
    auto* boxes = new QHBoxLayout(line);
    boxes->setContentsMargins(0, 0, 0, 0);
    auto* name = theme::label(theme::words(12), theme::ink, line, label);
    name->setToolTip(tip);
    auto* edit = new QLineEdit(now, line);
    edit->setObjectName(object);
    edit->setFont(theme::numbers(12));
    edit->setFixedHeight(21);
    edit->setToolTip(tip);
    boxes->addWidget(name);
    boxes->addWidget(edit, 1);
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, set, label = QString(label)] {
      if (!edit->isModified()) return;
      edit->setModified(false);
      const BodyNames names = session_.chosen_bodies();
      attempt([&] {
        session_.edit(counted(names) + ": " + label, [&](Scene& scene) {
          for (const std::string& each : names)
            if (Body* body = scene.find(each)) set(scene, *body, edit->text());
        });
      });
    });
    rows_->add_wide(line);
  };

  if (one) add_now();
  if (dynamic) add_acting();
  const bool all_of_what = question("What is it?", true);
  add_shape();
  if (one && first.looks) {
    auto* again = link("card_fit", "other shapes to collide with…",
                       "it looks as " + QString::fromStdString(first.looks->model) +
                           "; these are the shapes that could stand for it, with how well each fits",
                       rows_->inside());
    connect(again, &QToolButton::clicked, this, &Card::mesh_fit_asked);
    rows_->add_wide(again);
  }
  if (all_of_what) {
    text_row("card_tags", "tags", "words that scripts and zones know it by, parted by commas", joined(first.tags),
             [](Scene&, Body& body, const QString& text) { body.tags = split_names(text); });
    text_row("card_colour", "colour", "#RRGGBB", QString::fromStdString(first.colour),
             [](Scene&, Body& body, const QString& text) {
               if (text.size() != 7 || !QColor::isValidColor(text))
                 throw Error(body.name + ".colour", "wants a colour like #B98B52");
               body.colour = text.toStdString();
             });
  }

  std::string group;
  bool all_of_group = false;
  for (const Property* each : by_question(body_properties())) {
    const Property& property = *each;
    const bool moves = dynamic || property.group == "How does it meet others?" || property.group == breaking_question ||
                       property.name == "kind" || property.name == "position" || property.name == "orientation";
    if (!moves) continue;
    if (property.group == breaking_question && !of_this_breaking(property.name, first.breaking.into)) continue;
    if (property.group != group) {
      group = property.group;
      all_of_group = question(group, true);
    }
    if (!all_of_group && !usual.contains(property.name)) continue;
    if (property.name == "sweeping") {
      // Groups that are not there yet are made as they are named.
      const auto named = [](Scene& scene, const QString& text) {
        std::vector<std::string> names = split_names(text);
        for (const std::string& name : names)
          if (std::find(scene.groups.begin(), scene.groups.end(), name) == scene.groups.end())
            scene.groups.push_back(name);
        if (scene.groups.size() > 31) throw Error("groups", "a scene has 31 at most");
        return names;
      };
      text_row("card_groups", "groups", "collision groups that it is in, parted by commas; none: that of all others",
               joined(first.groups),
               [named](Scene& scene, Body& body, const QString& text) { body.groups = named(scene, text); });
      text_row("card_meets", "meets", "groups that it collides with, parted by commas; none: all", joined(first.meets),
               [named](Scene& scene, Body& body, const QString& text) { body.meets = named(scene, text); });
    }
    add_body_property(property);
    if (property.name == "breaks_into" && one && first.breaking.into != Breaking::Into::nothing) add_pieces();
    if (property.name == "mass") {
      RowSource density;
      density.info = property_info(PropertyKind::number, "density", "density", "kg/m³",
                                   "mass over volume: oak 700, cork 200, water 1000, granite 2700, iron 7800");
      density.info.low = 0;
      density.values = [this] {
        std::vector<Value> values;
        const std::vector<Value> masses = session_.chosen_values(*find_property("mass"));
        const std::vector<const Body*> now = session_.chosen_in_document();
        for (std::size_t i = 0; i < std::min(masses.size(), now.size()); ++i) {
          const double volume = shape_volume(now[i]->shape);
          const auto* mass = std::get_if<double>(&masses[i]);  // none at a moment at which it was not there
          values.push_back(number_or_none(mass && volume > 0 ? std::optional(*mass / volume) : std::nullopt));
        }
        return values;
      };
      density.change = [this](const std::function<Value(const Value&)>& make) {
        const BodyNames names = session_.chosen_bodies();
        session_.set_values(names, *find_property("mass"), counted(names) + ": density", [&](const Body& body) {
          const double volume = shape_volume(body.shape);
          if (!(volume > 0)) return Value(body.mass);
          return Value(std::get<double>(make(Value(body.mass / volume))) * volume);
        });
      };
      rows_->add(density);
    }
  }
  if (one) {
    add_ties();
    add_stamp();
  } else {
    add_giving();
  }
}

void Card::point_at(const QString& name) {
  const Property* property = find_property(name.toStdString());
  if (!property) return;
  const QString field = "card_" + name;
  if (!rows_->inside()->findChild<QWidget*>(field)) {
    more_.insert(property->group);
    rebuild();
  }
  if (auto* there = rows_->inside()->findChild<QWidget*>(field)) {
    scroll_->ensureWidgetVisible(there);
    there->setFocus();
  }
}

// What it would break into: how many pieces, and a slider that shows them apart.
void Card::add_pieces() {
  const Body* chosen = session_.scene().find(session_.chosen());
  if (!chosen) return;
  const Body& body = *chosen;
  if (body.breaking.into == Breaking::Into::planes) {
    auto* line = new QWidget(rows_->inside());
    auto* boxes = new QHBoxLayout(line);
    boxes->setContentsMargins(0, 0, 0, 0);
    auto* draw =
        link("card_draw_cut", "draw a cut…", "click two points: it parts along the line, straight away from you", line);
    connect(draw, &QToolButton::clicked, this, &Card::cut_asked);
    auto* none = link("card_no_cuts", QString("no cuts (%1 now)").arg(body.breaking.planes.size()),
                      "takes all drawn cuts away", line);
    connect(none, &QToolButton::clicked, this, [this, name = body.name] {
      session_.edit(QString::fromStdString(name + ": no cuts"), [&](Scene& scene) {
        if (Body* found = scene.find(name)) found->breaking.planes.clear();
      });
      QTimer::singleShot(0, this, &Card::rebuild);
    });
    boxes->addWidget(draw);
    boxes->addWidget(none);
    boxes->addStretch(1);
    rows_->add_wide(line);
  }
  auto* line = new QWidget(rows_->inside());
  auto* boxes = new QHBoxLayout(line);
  boxes->setContentsMargins(0, 0, 0, 0);
  auto* words = theme::label(theme::words(12), theme::ink, line, "pull apart");
  const QString tip = "shows the pieces apart, to look at: dark ones are held by the scene";
  words->setToolTip(tip);
  auto* slider = new QSlider(Qt::Horizontal, line);
  slider->setObjectName("card_pull_apart");
  slider->setRange(0, 100);
  slider->setValue(static_cast<int>(std::lround(100 * session_.pulled_apart())));
  slider->setToolTip(tip);
  slider->setEnabled(session_.play_state() == Session::PlayState::editing);
  connect(slider, &QSlider::valueChanged, this, [this](int value) { session_.pull_apart(value / 100.0); });
  boxes->addWidget(words);
  boxes->addWidget(slider, 1);
  rows_->add_wide(line);
  pieces_ = theme::label(theme::words(11), theme::faint_ink, rows_->inside());
  pieces_->setObjectName("card_piece_count");
  rows_->add_wide(pieces_);
  show_pieces();
}

void Card::show_pieces() {
  if (!pieces_) return;
  const auto set = session_.chosen_pieces();
  if (!set) {
    pieces_->setText("it can't break so; see the message");
    return;
  }
  std::size_t held = 0;
  for (const char each : set->anchored) held += each != 0 ? 1 : 0;
  pieces_->setText(QString("%1 pieces, %2 bonds%3")
                       .arg(set->pieces.size())
                       .arg(set->faces.size())
                       .arg(held > 0 ? QString(", %1 held").arg(held) : QString()));
}

void Card::add_ties() {
  const std::string body = session_.chosen();
  bool first = true;
  for (const SceneJoint& joint : session_.scene().joints) {
    if (joint.a != body && joint.b != body) continue;
    if (first) rows_->add_question("What is it tied to?");
    first = false;
    const std::string other = joint.a == body ? joint.b : joint.a;
    auto* go = link("card_joint_" + QString::fromStdString(joint.name),
                    QString::fromStdString(joint.name) + ": " +
                        QString::fromStdString(joint_word(joint.kind)).replace('_', ' ') +
                        (other.empty() ? " to the ground" : " to " + QString::fromStdString(other)),
                    "choose this joint", rows_->inside());
    connect(go, &QToolButton::clicked, this,
            [this, name = joint.name] { session_.choose_thing(ThingKind::joint, name); });
    rows_->add_wide(go);
  }
}

void Card::add_stamp() {
  const Body* body = session_.scene().find(session_.chosen());
  if (!body || body->stamped.copy.empty()) return;
  const std::string copy = body->stamped.copy;
  rows_->add_question("How does it differ from its stamp?");
  int shown = 0;
  for (const StampDifference& each : stamp_differences(session_.scene(), copy)) {
    if (each.body != body->name && !each.body.empty()) continue;
    const QString here = QString::fromStdString(each.here).left(14),
                  there = QString::fromStdString(each.in_stamp).left(14);
    auto* words = theme::label(theme::words(12), theme::ink, rows_->inside(),
                               QString::fromStdString((each.body.empty() ? each.part + " " : "") + each.label) + ": " +
                                   here + " here, " + there + " in the stamp");
    words->setWordWrap(true);
    rows_->add_wide(words);
    auto* line = new QWidget(rows_->inside());
    auto* boxes = new QHBoxLayout(line);
    boxes->setContentsMargins(0, 0, 0, 0);
    boxes->setSpacing(2);
    const QString number = QString::number(shown++);
    auto* take = link("stamp_take_" + number, "take " + there + " back", "this copy follows the stamp again", line);
    auto* give = link("stamp_give_" + number, "give " + here + " to all",
                      "the stamp has this value from now on, and every copy that follows it", line);
    connect(take, &QToolButton::clicked, this, [this, copy, each] {
      session_.edit(QString::fromStdString(copy + ": take " + each.label + " back"),
                    [&](Scene& scene) { take_stamps_value(scene, copy, each); });
      QTimer::singleShot(0, this, &Card::rebuild);
    });
    connect(give, &QToolButton::clicked, this, [this, copy, each] {
      session_.edit(QString::fromStdString(copy + ": give " + each.label + " to the stamp"),
                    [&](Scene& scene) { give_to_stamp(scene, copy, each); });
      QTimer::singleShot(0, this, &Card::rebuild);
    });
    boxes->addWidget(take);
    boxes->addWidget(give);
    boxes->addStretch(1);
    rows_->add_wide(line);
  }
  rows_->add_wide(theme::label(theme::words(11), theme::faint_ink, rows_->inside(),
                               shown == 0 ? QString::fromStdString("as " + body->stamped.stamp + " says")
                                          : QString::fromStdString("of " + body->stamped.stamp)));
}

// The last chosen body's settings for the others, each with a tick.
void Card::add_giving() {
  const Body* giver = session_.scene().find(session_.chosen());
  if (!giver) return;
  rows_->add_question("What shall they have of " + QString::fromStdString(giver->name) + "?");
  const std::vector<const Body*> bodies = session_.chosen_in_document();
  std::vector<std::pair<std::string, QCheckBox*>> boxes;
  for (const Aspect& aspect : aspects()) {
    int unlike = 0;
    for (const Body* body : bodies) unlike += aspect.same(*body, *giver) ? 0 : 1;
    if (unlike == 0) continue;
    auto* box =
        new QCheckBox(QString::fromStdString(aspect.label + ": " + aspect.text(*giver)).left(34), rows_->inside());
    box->setObjectName("give_" + QString::fromStdString(aspect.name));
    box->setToolTip(QString("%1 of them differ").arg(unlike));
    rows_->add_wide(box);
    boxes.emplace_back(aspect.name, box);
  }
  if (boxes.empty()) {
    rows_->add_wide(theme::label(theme::words(11), theme::faint_ink, rows_->inside(), "they have all its settings"));
    return;
  }
  auto* give =
      link("give_settings", "give what is ticked to the others", "in one step that can be undone", rows_->inside());
  connect(give, &QToolButton::clicked, this, [this, boxes] {
    const BodyNames names = session_.chosen_bodies();
    std::vector<std::string> ticked;
    for (const auto& [name, box] : boxes)
      if (box->isChecked()) ticked.push_back(name);
    if (ticked.empty()) {
      emit session_.said("tick what they shall have");
      return;
    }
    attempt([&] {
      session_.edit(
          QString::fromStdString("settings of " + names.back()) + QString(" for %1 bodies").arg(names.size() - 1),
          [&](Scene& scene) {
            const Body* giver_now = names.empty() ? nullptr : scene.find(names.back());
            if (!giver_now) return;
            const Body like = *giver_now;
            for (const std::string& name : names)
              if (Body* body = scene.find(name))
                for (const std::string& aspect : ticked) find_aspect(aspect)->take(*body, like);
          });
    });
    emit session_.scripts_changed();
    QTimer::singleShot(0, this, &Card::rebuild);
  });
  rows_->add_wide(give);
}

}  // namespace bronvel
