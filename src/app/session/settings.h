// What the bench remembers from one session to the next, whatever scene is open.
#pragma once

#include <QSettings>

namespace bronvel {

inline QSettings bench_settings() {
  return QSettings(QSettings::IniFormat, QSettings::UserScope, "bronvel", "bench");
}

}  // namespace bronvel
