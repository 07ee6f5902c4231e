// Keeping aside and taking up again.
#include "app/session/recovery.h"

#include <unistd.h>

#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QLockFile>
#include <QStandardPaths>
#include <atomic>
#include <nlohmann/json.hpp>

#include "app/session/session.h"

namespace bronvel {
namespace fs = std::filesystem;

QString Recovery::place() {
  const QByteArray own = qgetenv("BRONVEL_STATE");
  if (!own.isEmpty()) return QString::fromLocal8Bit(own) + "/kept";
  const QByteArray state = qgetenv("XDG_STATE_HOME");
  return (state.isEmpty() ? QDir::homePath() + "/.local/state" : QString::fromLocal8Bit(state)) + "/bronvel/kept";
}

Recovery::Recovery(Session& session, double seconds, QObject* parent) : QObject(parent), session_(session) {
  static std::atomic<int> benches{0};
  folder_ = place() + QString("/%1-%2").arg(getpid()).arg(++benches);
  timer_.setSingleShot(true);
  timer_.setInterval(static_cast<int>(seconds * 1000));
  connect(&timer_, &QTimer::timeout, this, &Recovery::keep);
  connect(&session_, &Session::document_changed, this, &Recovery::changed);
  connect(&session_, &Session::scripts_changed, this, &Recovery::changed);
}

namespace {

// Held by the bench whose folder it is in, as long as it runs. A process number may be another's by now: the lock knows
// the program and the machine's start too.
std::unique_ptr<QLockFile> lock_of(const QString& folder) {
  auto lock = std::make_unique<QLockFile>(folder + "/bench.lock");
  lock->setStaleLockTime(0);  // never by age alone
  return lock;
}

}  // namespace

Recovery::~Recovery() {
  forget_own();
}

void Recovery::forget_own() {
  if (writing_.valid()) writing_.wait();
  lock_.reset();
  QDir(folder_).removeRecursively();
}

void Recovery::changed() {
  if (session_.saved()) {
    timer_.stop();
    forget_own();
  } else if (!timer_.isActive()) {
    // Not begun anew by every change: who edits on and on is safe too.
    timer_.start();
  }
}

void Recovery::keep() {
  if (session_.saved()) return;
  if (writing_.valid() && writing_.wait_for(std::chrono::seconds(0)) != std::future_status::ready) {
    timer_.start();
    return;
  }
  // The bench goes on while it is written.
  QDir().mkpath(folder_);
  if (!lock_) lock_ = lock_of(folder_);
  if (!lock_->isLocked()) lock_->tryLock(0);
  SceneFolder folder = session_.folder_as_typed();
  const std::string belongs = folder.path.string(), into = folder_.toStdString();
  folder.path = fs::path(into);
  writing_ = std::async(std::launch::async, [folder = std::move(folder), belongs] {
    try {
      fs::create_directories(folder.path);
      const nlohmann::json about{{"scene", belongs}};
      save_folder(folder);
      write_atomically(folder.path / "kept.json", about.dump());
    } catch (const std::exception&) {
      // A full disk must not stop the work; the next change tries again.
    }
  });
}

void Recovery::keep_now() {
  timer_.stop();
  if (writing_.valid()) writing_.wait();
  keep();
  if (writing_.valid()) writing_.wait();
}

std::vector<LeftOver> Recovery::left_over() {
  std::vector<LeftOver> all;
  const QDir here(place());
  for (const QFileInfo& one : here.entryInfoList(QDir::Dirs | QDir::NoDotAndDotDot, QDir::Time)) {
    try {
      const auto about = nlohmann::json::parse(read_file((one.filePath() + "/kept.json").toStdString()));
      // A bench that still runs looks after its own.
      if (!lock_of(one.filePath())->tryLock(0)) continue;
      LeftOver left;
      left.folder = one.filePath();
      left.scene = QString::fromStdString(about.at("scene").get<std::string>());
      left.name = left.scene.isEmpty() ? "a scene without a folder" : QFileInfo(left.scene).fileName();
      left.when = QFileInfo(one.filePath() + "/kept.json").lastModified().toString("HH:mm 'on' d MMMM");
      all.push_back(left);
    } catch (const std::exception&) {
      // Not one of ours, or cut short before anything was whole.
    }
  }
  return all;
}

SceneFolder Recovery::read(const LeftOver& left) {
  SceneFolder folder = open_folder(left.folder.toStdString());
  folder.path = left.scene.toStdString();
  return folder;
}

void Recovery::forget(const LeftOver& left) {
  QDir(left.folder).removeRecursively();
}

}  // namespace bronvel
