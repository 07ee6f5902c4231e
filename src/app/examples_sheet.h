// The list of examples: a picture, a name and two lines on what to look at.
#pragma once

#include <QFrame>

class QListWidget;

namespace bronvel {

class ExamplesSheet : public QFrame {
  Q_OBJECT

 public:
  explicit ExamplesSheet(QWidget* parent = nullptr);
  void open();

 signals:
  void picked(const QString& path);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void fill();
  QListWidget* list_ = nullptr;
};

}  // namespace bronvel
