// What is not saved is kept aside every few seconds, so that a crash loses no more than that.
#pragma once

#include <QObject>
#include <QTimer>
#include <future>
#include <memory>

#include "scene/files/folder.h"

class QLockFile;

namespace bronvel {

class Session;

/// Work that a bench which is gone had not saved.
struct LeftOver {
  QString folder;  ///< where it is kept
  QString scene;   ///< the folder it belongs to, "" for one that was never saved
  QString name;    ///< of the scene
  QString when;    ///< "14:32 on 23 November"
};

class Recovery : public QObject {
  Q_OBJECT

 public:
  /// Keeps aside what `session` has not saved, `seconds` after it changed, in a folder of its own under `place()`.
  explicit Recovery(Session& session, double seconds = 4, QObject* parent = nullptr);
  ~Recovery() override;  ///< nothing is kept of a bench that closes as it should

  /// $BRONVEL_STATE, or the user's state folder.
  static QString place();
  static std::vector<LeftOver> left_over();
  static SceneFolder read(const LeftOver& left);  ///< throws Error
  static void forget(const LeftOver& left);

  void keep_now();  ///< at once, and waits until it is on disk

 private:
  void changed();
  void keep();
  void forget_own();

  Session& session_;
  QTimer timer_;
  QString folder_;
  std::unique_ptr<QLockFile> lock_;
  std::future<void> writing_;
};

}  // namespace bronvel
