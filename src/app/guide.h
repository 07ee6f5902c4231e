// What one may do next, on the stage: the first steps in the demo, the tasks of an example, the beginning of a new
// scene.
#pragma once

#include <QFrame>
#include <map>
#include <vector>

#include "app/session/session.h"

class QLabel;
class QVBoxLayout;

namespace bronvel {

/// Steps tick themselves off as they are done. It can be closed, and the first steps for ever.
class Guide : public QFrame {
  Q_OBJECT

 public:
  Guide(Session& session, QWidget* parent);
  void saw_why();  ///< the sheet of a hit was looked at
  void fit();      ///< as tall as its words need

 signals:
  void resized();

 private:
  struct Step {
    QString words;
    bool counts = true;  ///< it can be seen when it is done
    bool done = false;
    QLabel* mark = nullptr;
    QLabel* label = nullptr;
  };

  void begin();  ///< of the scene that was opened
  void show_steps(const QString& title, std::vector<Step> steps, bool may_end_for_ever);
  void look();  ///< ticks off what is done
  void tick_off(std::size_t step);
  void show_next();

  Session& session_;
  QLabel* title_ = nullptr;
  QString title_words_;
  QLabel* end_ = nullptr;
  QVBoxLayout* list_ = nullptr;
  std::vector<Step> steps_;
  enum class Of { nothing, demo, tasks, empty } of_ = Of::nothing;
  std::map<std::string, std::map<std::string, double>> dials_before_;  // by body, of the opened scene
  std::map<std::string, std::string> scripts_before_;
  bool waited_for_keep_ = false;
};

}  // namespace bronvel
