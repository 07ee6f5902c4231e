// Surface format.
#include "app/start.h"

#include <QStringList>
#include <QSurfaceFormat>
#include <algorithm>

#include "app/session/settings.h"

namespace bronvel {
namespace {

constexpr const char* sheet_setting = "look/sheet";
constexpr const char* type_setting = "look/type";
const QStringList& sheet_words() {
  static const QStringList words{"desktop", "light", "dark"};
  return words;
}

}  // namespace

theme::Sheet chosen_sheet() {
  const auto word = sheet_words().indexOf(bench_settings().value(sheet_setting, sheet_words().first()).toString());
  return word < 0 ? theme::Sheet::desktop : static_cast<theme::Sheet>(word);
}

double chosen_type() {
  return std::clamp(bench_settings().value(type_setting, 1.0).toDouble(), 1.0, 1.3);
}

void choose_type(double scale) {
  bench_settings().setValue(type_setting, scale);
}

void choose_sheet(theme::Sheet sheet) {
  bench_settings().setValue(sheet_setting, sheet_words().at(static_cast<int>(sheet)));
}

void prepare_graphics() {
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  format.setDepthBufferSize(24);
  format.setSamples(0);
  format.setSwapInterval(0);
  QSurfaceFormat::setDefaultFormat(format);
}

}  // namespace bronvel
