// Going through folders: to open a scene, to save one, to find a mesh.
#pragma once

#include <QDir>
#include <QFrame>
#include <functional>

class QLabel;
class QLineEdit;
class QListWidget;
class QListWidgetItem;
class QToolButton;
class QVBoxLayout;

namespace bronvel {

/// Lies over the bench; nothing waits for it. Remembers where it was for each of its uses.
class PlacesSheet : public QFrame {
  Q_OBJECT

 public:
  explicit PlacesSheet(QWidget* parent);

  enum class Use { open_scene, save_scene, pick_mesh };
  /// Shows the folder used last, or `from` if there was none; `picked` is given what was picked.
  void begin(Use use, const QString& from, const std::function<void(const QString&)>& picked);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void go_to(const QString& folder);
  void fill_places();
  void show_what();  ///< what the main button would do
  void enter(const QListWidgetItem* item);
  void pick();
  void finish(const QString& path);

  Use use_ = Use::open_scene;
  std::function<void(const QString&)> picked_;
  QDir folder_;
  QLabel *title_ = nullptr, *what_ = nullptr, *name_word_ = nullptr;
  QLineEdit *path_ = nullptr, *name_ = nullptr;
  QListWidget *list_ = nullptr, *places_ = nullptr;
  QToolButton* main_ = nullptr;
};

}  // namespace bronvel
