// The scenes that were open lately.
#pragma once

#include <QStringList>

namespace bronvel {

/// Folders that are still there, the latest first; ten at most.
QStringList recent_scenes();
void remember_scene(const QString& path);

}  // namespace bronvel
