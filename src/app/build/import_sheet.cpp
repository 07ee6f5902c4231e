// The sheet's fields, its work in the background, and what it puts into the scene.
#include "app/build/import_sheet.h"

#include <QComboBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/mesh.h"
#include "scene/document/names.h"

namespace bronvel {
namespace {

constexpr double units[] = {1, 0.01, 0.001, 0.0254};  // m
constexpr int kinds = 7;
constexpr std::chrono::seconds longest_fit{20};
constexpr std::chrono::milliseconds wait_for_file{300};  // a small one is read at once
constexpr double oak_density = 700;

Pose inverse(const Pose& pose) {
  const Quat back = pose.orientation.conjugate();
  return {-(back * pose.position), back};
}

// The best of the simple ones: the cheapest whose greatest gap is within a tenth of the extent, else the set of hulls.
int recommended(const std::vector<Fit>& fits, double extent, bool dynamic) {
  int best = -1;
  for (int i = 0; i < static_cast<int>(fits.size()); ++i) {
    const Fit& fit = fits[static_cast<std::size_t>(i)];
    if (!fit.fault.empty() || (dynamic && fit.kind == FitKind::exact)) continue;
    if (fit.kind != FitKind::hulls && fit.kind != FitKind::exact && fit.misfit.gap < 0.06 * extent) return i;
    if (best < 0 || fit.misfit.gap < fits[static_cast<std::size_t>(best)].misfit.gap) best = i;
  }
  return best;
}

}  // namespace

ImportSheet::ImportSheet(Session& session, Stage* stage, QWidget* parent)
    : QFrame(parent), session_(session), stage_(stage) {
  setObjectName("import_sheet");
  setStyleSheet("#import_sheet { background: " + theme::sheet.name() + "; border: 1px solid " + theme::chosen.name() +
                "; border-radius: 8px; }");
  setFixedWidth(430);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 10, 14, 12);
  column->setSpacing(5);
  auto* head = new QHBoxLayout;
  title_ = theme::label(theme::words(13, QFont::Bold), theme::ink, this);
  head->addWidget(title_, 1);
  auto* close = new QToolButton(this);
  close->setObjectName("import_close");
  close->setText("✕");
  close->setToolTip("leave it");
  connect(close, &QToolButton::clicked, this, &ImportSheet::close_sheet);
  head->addWidget(close);
  column->addLayout(head);
  about_ = theme::label(theme::words(11), theme::faint_ink, this);
  about_->setWordWrap(true);
  column->addWidget(about_);

  file_rows_ = new QWidget(this);
  auto* grid = new QGridLayout(file_rows_);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setVerticalSpacing(3);
  const auto choice = [&](const QString& name, const QStringList& words, const QString& tip, int row, int at) {
    auto* box = new QComboBox(file_rows_);
    box->setObjectName(name);
    box->addItems(words);
    box->setToolTip(tip);
    box->setFont(theme::words(12));
    grid->addWidget(box, row, at);
    return box;
  };
  unit_ = choice("import_unit", {"in metres", "in centimetres", "in millimetres", "in inches"},
                 "what one unit of the file is", 0, 0);
  up_ = choice("import_up", {"Y is up", "Z is up"}, "which axis of the file points up", 0, 1);
  pieces_ = choice("import_pieces", {"one body", "a body for each piece", "one body that breaks"},
                   "what becomes of the file's named pieces; one that breaks goes into them, each as its hull", 1, 0);
  fixed_ = new QLineEdit(file_rows_);
  fixed_->setObjectName("import_fixed");
  fixed_->setPlaceholderText("pieces that stay: base*, *_frame");
  fixed_->setToolTip("pieces whose names fit become static; a star stands for any letters, commas part several");
  grid->addWidget(fixed_, 1, 1);
  column->addWidget(file_rows_);

  kind_ = new QComboBox(this);
  kind_->setObjectName("import_kind");
  kind_->addItems({"dynamic: forces move it", "static: never moves", "kinematic: moves as told"});
  column->addWidget(kind_);
  column->addWidget(
      theme::label(theme::words(11, QFont::DemiBold), theme::chosen, this, "Which shape shall it collide with?"));
  table_ = new QTreeWidget(this);
  table_->setObjectName("fits");
  style_deck_table(table_);
  table_->setHeaderLabels({"shape", "volume", "greatest gap mm", "parts"});
  table_->headerItem()->setToolTip(1, "of the shape over the mesh's: 1 is as full as the mesh");
  table_->headerItem()->setToolTip(2, "the farthest that the two surfaces are from each other");
  table_->headerItem()->setToolTip(3, "more parts cost more in every tick");
  const int widths[] = {130, 76, 116, 50};
  for (int i = 0; i < 4; ++i) table_->setColumnWidth(i, widths[i]);
  table_->setFixedHeight(7 * 21 + 30);
  column->addWidget(table_);
  advice_ = theme::label(theme::words(11), theme::faint_ink, this);
  advice_->setObjectName("import_advice");
  advice_->setWordWrap(true);
  advice_->setMinimumHeight(32);
  advice_->setAlignment(Qt::AlignTop);
  column->addWidget(advice_);
  auto* buttons = new QHBoxLayout;
  use_ = new QToolButton(this);
  use_->setObjectName("import_use");
  style_deck_button(use_);
  connect(use_, &QToolButton::clicked, this, &ImportSheet::use);
  instead_ = new QToolButton(this);
  instead_->setObjectName("import_instead");
  style_deck_button(instead_);
  connect(instead_, &QToolButton::clicked, this, [this] {
    double extent = 1;
    if (!model_.points.empty()) {
      const Bounds bounds = model_bounds(model_);
      extent = (bounds.high - bounds.low).maxCoeff();
    }
    show_row(recommended(fits_, extent, true));
  });
  buttons->addWidget(use_);
  buttons->addWidget(instead_);
  buttons->addStretch(1);
  column->addLayout(buttons);
  hide();

  reading_timer_.setInterval(50);
  connect(&reading_timer_, &QTimer::timeout, this, &ImportSheet::take_reading);
  timer_.setInterval(30);
  connect(&timer_, &QTimer::timeout, this, &ImportSheet::take_results);
  for (QComboBox* box : {unit_, up_}) connect(box, &QComboBox::currentIndexChanged, this, &ImportSheet::begin);
  connect(kind_, &QComboBox::currentIndexChanged, this, &ImportSheet::show_choice);
  connect(pieces_, &QComboBox::currentIndexChanged, this, &ImportSheet::show_choice);
  connect(table_, &QTreeWidget::currentItemChanged, this, [this] {
    chosen_ = table_->indexOfTopLevelItem(table_->currentItem());
    show_choice();
  });
  connect(&session_, &Session::play_state_changed, this, [this] {
    if (!session_.building() && isVisible()) close_sheet();
  });
}

ImportSheet::~ImportSheet() {
  *given_up_ = true;
  if (working_.valid()) working_.wait();
  if (reading_.valid()) reading_.wait();
}

bool ImportSheet::open_file(const QString& file) {
  *given_up_ = true;
  if (reading_.valid()) reading_.wait();
  given_up_ = std::make_shared<std::atomic<bool>>(false);
  file_ = file;
  body_.clear();
  reading_ = std::async(std::launch::async, [name = file.toStdString(), given_up = given_up_] {
    return import_model(name, [given_up] { return !*given_up; });
  });
  if (reading_.wait_for(wait_for_file) != std::future_status::ready) {
    title_->setText(QFileInfo(file).fileName());
    about_->setText("reading it…");
    table_->clear();
    use_->setEnabled(false);
    advice_->setText("close this sheet to give it up");
    show();
    raise();
    reading_timer_.start();
    emit resized();
    return true;
  }
  take_reading();
  return isVisible();
}

void ImportSheet::take_reading() {
  if (!reading_.valid() || reading_.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return;
  reading_timer_.stop();
  try {
    imported_ = reading_.get();
  } catch (const std::exception& e) {
    if (isVisible()) close_sheet();
    if (!*given_up_) emit said("This mesh can't be used.", e.what());
    return;
  }
  if (!*given_up_) show_imported();
}

void ImportSheet::show_imported() {
  const QString file = file_;
  const QPointF middle(0.5 * (stage_->width() - stage_->camera().covered_right), 0.55 * stage_->height());
  place_ = stage_->place_at(middle).value_or(Vec3(0, 0, 0));
  const Vec3 extent = imported_.bounds.high - imported_.bounds.low;
  title_->setText(QFileInfo(file).fileName());
  file_rows_->show();
  pieces_->setEnabled(imported_.pieces.size() > 1);
  // A thing of a hundred metres is more often one of a hundred millimetres.
  const QSignalBlocker quiet(unit_);
  unit_->setCurrentIndex(extent.maxCoeff() > 30 ? 2 : 0);
  pieces_->setCurrentIndex(0);
  kind_->setCurrentIndex(0);
  begin();
}

void ImportSheet::open_body(const std::string& body) {
  const Body* found = session_.scene().find(body);
  if (!found || !found->looks) return;
  const auto model = session_.scene().models.find(found->looks->model);
  if (model == session_.scene().models.end()) return;
  body_ = body;
  file_.clear();
  title_->setText(QString::fromStdString(body + ", looks as " + found->looks->model));
  file_rows_->hide();
  kind_->setCurrentIndex(found->kind == MotionKind::dynamic ? 0 : found->kind == MotionKind::fixed ? 1 : 2);
  imported_ = {};
  model_ = *model->second;
  for (Vec3& p : model_.points) p *= found->looks->scale;
  begin();
}

void ImportSheet::begin() {
  if (body_.empty()) {
    const double scale = units[unit_->currentIndex()];
    model_ = in_metres(joined_pieces(imported_), scale, up_->currentIndex() == 0 ? UpAxis::y : UpAxis::z);
    const Bounds bounds = model_bounds(model_);
    middle_ = 0.5 * (bounds.low + bounds.high);
    for (Vec3& p : model_.points) p -= middle_;
  }
  const Bounds bounds = model_bounds(model_);
  const Vec3 extent = bounds.high - bounds.low;
  about_->setText(
      QString("%1 × %2 × %3 m, %4 triangles%5, %6")
          .arg(extent.x(), 0, 'g', 3)
          .arg(extent.y(), 0, 'g', 3)
          .arg(extent.z(), 0, 'g', 3)
          .arg(model_.triangles.size())
          .arg(imported_.pieces.size() > 1 ? QString(" in %1 pieces").arg(imported_.pieces.size()) : QString())
          .arg(model_closed(model_) ? "closed" : "open, so it has no volume of its own"));
  ++round_;
  // What still works on the mesh before ends at once.
  *given_up_ = true;
  given_up_ = std::make_shared<std::atomic<bool>>(false);
  fits_.clear();
  chosen_ = -1;
  next_kind_ = 0;
  table_->clear();
  for (int kind = 0; kind < kinds; ++kind) {
    auto* item =
        new QTreeWidgetItem(table_, {QString::fromStdString(fit_word(static_cast<FitKind>(kind))), "…", "", ""});
    for (int i = 1; i < 4; ++i) item->setTextAlignment(i, Qt::AlignRight | Qt::AlignVCenter);
  }
  show();
  raise();
  timer_.start();
  take_results();
  show_choice();
  emit resized();
}

// One kind after another on a thread of its own; the window goes on.
void ImportSheet::take_results() {
  if (working_.valid()) {
    if (working_.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return;
    const Fit fit = working_.get();
    if (working_for_ == round_ && next_kind_ < kinds) {
      fits_.push_back(fit);
      QTreeWidgetItem* item = table_->topLevelItem(next_kind_++);
      if (fit.fault.empty()) {
        item->setText(1, fit.misfit.volume_ratio > 0 ? "× " + QString::number(fit.misfit.volume_ratio, 'f', 2) : "–");
        item->setText(2, QString::number(1000 * fit.misfit.gap, 'f', 1));
        item->setText(3, QString::number(fit.parts));
      } else {
        item->setText(1, "none");
        item->setToolTip(0, QString::fromStdString(fit.fault));
        item->setToolTip(1, QString::fromStdString(fit.fault));
      }
      if (next_kind_ == kinds) {
        const Bounds bounds = model_bounds(model_);
        if (chosen_ < 0)
          show_row(recommended(fits_, (bounds.high - bounds.low).maxCoeff(), kind_->currentIndex() == 0));
        show_choice();
      }
    }
  }
  if (next_kind_ >= kinds) {
    timer_.stop();
    return;
  }
  working_for_ = round_;
  working_ =
      std::async(std::launch::async, [model = model_, kind = static_cast<FitKind>(next_kind_), given_up = given_up_] {
        const auto start = std::chrono::steady_clock::now();
        FitPlan plan;
        plan.go_on = [given_up, start] { return !*given_up && std::chrono::steady_clock::now() - start < longest_fit; };
        Fit fit = fit_to(model, kind, plan);
        if (fit.fault.find("given up") != std::string::npos)
          fit.fault = "it took longer than 20 s; thin the mesh out, and try again";
        return fit;
      });
}

void ImportSheet::show_row(int row) {
  if (row >= 0) table_->setCurrentItem(table_->topLevelItem(row));
}

const Fit* ImportSheet::chosen() const {
  if (chosen_ < 0 || chosen_ >= static_cast<int>(fits_.size())) return nullptr;
  return &fits_[static_cast<std::size_t>(chosen_)];
}

Pose ImportSheet::standing() const {
  if (!body_.empty()) {
    const Body* body = session_.scene().find(body_);
    if (!body || !body->looks) return {};
    return Pose{body->position, body->orientation} * body->looks->pose;
  }
  const Bounds bounds = model_bounds(model_);
  return {place_ + Vec3(0, -bounds.low.y(), 0), Quat::Identity()};
}

void ImportSheet::show_choice() {
  const Fit* fit = chosen();
  const bool dynamic = kind_->currentIndex() == 0;
  const bool wrong = fit && fit->kind == FitKind::exact && dynamic;
  instead_->setVisible(wrong || (fit && !fit->fault.empty()));
  instead_->setText("use the nearest that can");
  use_->setText(body_.empty() ? "put it on the stage" : "use this shape");
  use_->setEnabled(fit && fit->fault.empty() && !wrong);
  fixed_->setEnabled(pieces_->currentIndex() >= 1 && pieces_->isEnabled());
  if (!fit)
    advice_->setText(working() ? "measuring how each would fit…" : "choose a shape");
  else if (!fit->fault.empty())
    advice_->setText("There is none: " + QString::fromStdString(fit->fault) + ".");
  else if (wrong)
    advice_->setText(
        "An exact mesh is only a skin: it has no inside for forces to move. Only static and kinematic bodies can have "
        "it.");
  else
    advice_->setText(QString("The shape is drawn over the mesh. Its surface is nowhere farther than %1 mm from it.")
                         .arg(1000 * fit->misfit.gap, 0, 'f', 1));
  // The mesh as it would stand, and the shape's edges over it.
  BodyView view;
  view.shape = Sphere{0.001};
  view.model = std::make_shared<const Model>(model_);
  view.pose = standing();
  view.colour = "#C9B48C";
  std::optional<std::pair<bronvel::Shape, Pose>> over;
  if (fit && fit->fault.empty()) over = std::pair(fit->shape, view.pose * fit->pose);
  stage_->show_fit(isVisible() ? std::optional(view) : std::nullopt, over);
}

void ImportSheet::close_sheet() {
  hide();
  emit resized();
  timer_.stop();
  *given_up_ = true;
  next_kind_ = kinds;
  stage_->show_fit(std::nullopt, std::nullopt);
  stage_->setFocus();
}

// The file's pieces as one body that breaks into them; those whose names say so are held by the scene.
std::string ImportSheet::add_breakable(Scene& scene, const std::string& stem, const Pose& stands, MotionKind kind) {
  Body body;
  body.name = Names(scene).fresh(stem);
  std::vector<Part> parts;
  for (const ImportedPiece& piece : imported_.pieces) {
    Model model =
        in_metres(piece.model, units[unit_->currentIndex()], up_->currentIndex() == 0 ? UpAxis::y : UpAxis::z);
    const Bounds bounds = model_bounds(model);
    const Vec3 middle = 0.5 * (bounds.low + bounds.high);
    for (Vec3& p : model.points) p -= middle;
    const Fit own = fit_to(model, FitKind::hull, {8, 0.05, 0});
    if (!own.fault.empty()) {
      emit session_.said(QString::fromStdString(piece.name + " was left out: " + own.fault));
      continue;
    }
    if (name_fits(piece.name, fixed_->text().toStdString()))
      body.breaking.held_parts.push_back(static_cast<std::uint32_t>(parts.size()));
    parts.push_back({own.shape, Pose{middle - middle_, Quat::Identity()} * own.pose, 1});
  }
  if (parts.size() < 2) throw Error(stem, "has fewer than two pieces with an inside", "import it as one body");
  body.shape = make_compound(std::move(parts));
  body.breaking.into = Breaking::Into::parts;
  if (!body.breaking.held_parts.empty()) body.breaking.held = HeldPieces::listed;
  if (const std::string fault = breaking_fault(body.shape, body.breaking); !fault.empty()) throw Error(stem, fault);
  body.kind = kind;
  body.position = stands.position;
  body.orientation = stands.orientation;
  body.mass = shape_volume(body.shape) * oak_density;
  if (scene.surfaces.contains("oak")) body.surface = "oak";
  body.colour = "#C9B48C";
  const std::string model_name = free_name(stem, [&](const std::string& each) { return scene.models.contains(each); });
  scene.models[model_name] = std::make_shared<const Model>(model_);
  body.looks = Looks{model_name, {}, 1};
  scene.bodies.push_back(body);
  return body.name;
}

void ImportSheet::use() {
  const Fit* fit = chosen();
  if (!fit || !fit->fault.empty()) return;
  const MotionKind kind = kind_->currentIndex() == 0   ? MotionKind::dynamic
                          : kind_->currentIndex() == 1 ? MotionKind::fixed
                                                       : MotionKind::kinematic;
  const Pose stands = standing();
  try {
    BodyNames made;
    if (!body_.empty()) {
      session_.edit(QString::fromStdString(body_ + ": collides as " + fit_word(fit->kind)), [&](Scene& scene) {
        Body* body = scene.find(body_);
        reshape_body(scene, body_, fit->shape, true);
        body->kind = kind;
        const Pose pose = stands * fit->pose;
        place_body(scene, body_, pose);
        body->looks->pose = inverse(fit->pose);
      });
      made = {body_};
    } else {
      const std::string stem = allowed_name(QFileInfo(file_).completeBaseName().toStdString(), "mesh");
      session_.edit("import " + QFileInfo(file_).fileName(), [&](Scene& scene) {
        Names book(scene);
        const auto add = [&](const std::string& name, const Model& model, const Fit& own, const Pose& where,
                             MotionKind moves) {
          const std::string model_name =
              free_name(name, [&](const std::string& each) { return scene.models.contains(each); });
          scene.models[model_name] = std::make_shared<const Model>(model);
          Body body;
          body.name = book.fresh(name);
          body.kind = moves;
          body.shape = own.shape;
          const Pose pose = where * own.pose;
          body.position = pose.position;
          body.orientation = pose.orientation;
          const double volume = shape_volume(own.shape);
          if (volume > 0) body.mass = volume * oak_density;
          if (scene.surfaces.contains("oak")) body.surface = "oak";
          body.colour = "#C9B48C";
          body.looks = Looks{model_name, inverse(own.pose), 1};
          made.push_back(body.name);
          scene.bodies.push_back(std::move(body));
        };
        if (pieces_->currentIndex() == 0 || imported_.pieces.size() == 1) {
          // An exact mesh is named in the scene file instead of written out: it is the model, point for point.
          Model own = model_;
          if (const auto* mesh = std::get_if<Mesh>(&fit->shape)) own = {mesh->data->points, mesh->data->triangles};
          add(stem, own, *fit, stands, kind);
          return;
        }
        if (pieces_->currentIndex() == 2) {
          made.push_back(add_breakable(scene, stem, stands, kind));
          return;
        }
        for (const ImportedPiece& piece : imported_.pieces) {
          const bool stays = name_fits(piece.name, fixed_->text().toStdString());
          const MotionKind moves = stays ? MotionKind::fixed : kind;
          Model model =
              in_metres(piece.model, units[unit_->currentIndex()], up_->currentIndex() == 0 ? UpAxis::y : UpAxis::z);
          const Bounds bounds = model_bounds(model);
          const Vec3 middle = 0.5 * (bounds.low + bounds.high);
          for (Vec3& p : model.points) p -= middle;
          Fit own = fit_to(model, fit->kind, {8, 0.05, 0});
          // A flat piece has no inside: a static one takes the mesh, another one is left out, and said.
          if (!own.fault.empty() && moves == MotionKind::fixed) own = fit_to(model, FitKind::exact, {8, 0.05, 0});
          if (!own.fault.empty()) {
            emit session_.said(QString::fromStdString(piece.name + " was left out: " + own.fault));
            continue;
          }
          add(allowed_name(piece.name, "piece"), model, own, stands * Pose{middle - middle_, Quat::Identity()}, moves);
        }
        if (made.empty()) throw Error(stem, "has no piece that such a shape can be fitted to", "choose another shape");
      });
    }
    close_sheet();
    session_.choose_bodies(made);
  } catch (const std::exception& e) {
    emit said("This mesh can't be used.", e.what());
  }
}

}  // namespace bronvel
