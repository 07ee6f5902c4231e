// Which shape shall a mesh collide with? The sheet that answers it: every kind of fit with how far it is off, shown
// over the mesh on the stage.
#pragma once

#include <QFrame>
#include <QTimer>
#include <atomic>
#include <future>
#include <memory>

#include "app/stage/stage.h"
#include "geometry/meshes/fit.h"
#include "scene/files/model_import.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QToolButton;
class QTreeWidget;

namespace bronvel {

class NumberField;

class ImportSheet : public QFrame {
  Q_OBJECT

 public:
  ImportSheet(Session& session, Stage* stage, QWidget* parent = nullptr);
  ~ImportSheet() override;

  /// A mesh from a file. False, with the reason said, if it can't be read.
  bool open_file(const QString& file);
  /// Another shape for a body that has a model.
  void open_body(const std::string& body);
  bool working() const { return next_kind_ < 7; }

 signals:
  void resized();
  void said(const QString& title, const QString& text);

 private:
  void begin();         // with the scale and axes as they are set
  void take_results();  // of the thread
  void show_row(int row);
  void show_choice();
  std::string add_breakable(Scene& scene, const std::string& stem, const Pose& stands, MotionKind kind);
  void use();
  void close_sheet();
  Pose standing() const;  // of the model on the stage
  const Fit* chosen() const;

  Session& session_;
  Stage* stage_;
  QString file_;
  std::string body_;  // whose model it is; "" for a file
  ImportedModel imported_;
  Model model_;  // in metres, Y up, its middle at the origin
  Vec3 middle_ = Vec3::Zero(), place_ = Vec3::Zero();
  std::vector<Fit> fits_;
  void take_reading();
  void show_imported();

  std::future<ImportedModel> reading_;  // of a file, while it lasts
  QTimer reading_timer_;
  std::future<Fit> working_;
  std::shared_ptr<std::atomic<bool>> given_up_ = std::make_shared<std::atomic<bool>>(false);  // what works on now
  std::uint64_t working_for_ = 0;  // the round that it was begun in
  int next_kind_ = 7, chosen_ = -1;
  std::uint64_t round_ = 0;  // counts what is set anew: results of an earlier round are of another model
  QTimer timer_;
  QLabel *title_ = nullptr, *about_ = nullptr, *advice_ = nullptr;
  QComboBox *unit_ = nullptr, *up_ = nullptr, *kind_ = nullptr, *pieces_ = nullptr;
  QLineEdit* fixed_ = nullptr;
  QTreeWidget* table_ = nullptr;
  QToolButton *use_ = nullptr, *instead_ = nullptr;
  QWidget* file_rows_ = nullptr;
};

}  // namespace bronvel
