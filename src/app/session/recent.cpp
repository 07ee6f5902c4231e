// A list in a file of the state folder.
#include "app/session/recent.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>

#include "app/session/recovery.h"

namespace bronvel {
namespace {

QString list_file() {
  return QFileInfo(Recovery::place()).path() + "/lately";
}

}  // namespace

QStringList recent_scenes() {
  QFile file(list_file());
  QStringList there;
  if (!file.open(QIODevice::ReadOnly)) return there;
  for (const QString& path : QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts))
    if (QFileInfo::exists(path + "/scene.json")) there << path;
  return there.mid(0, 10);
}

void remember_scene(const QString& path) {
  QStringList all = recent_scenes();
  const QString whole = QFileInfo(path).absoluteFilePath();
  all.removeAll(whole);
  all.prepend(whole);
  QDir().mkpath(QFileInfo(list_file()).path());
  QSaveFile file(list_file());
  if (!file.open(QIODevice::WriteOnly)) return;  // Only a convenience: nothing else hangs on it.
  file.write(all.mid(0, 10).join('\n').toUtf8());
  file.commit();
}

}  // namespace bronvel
