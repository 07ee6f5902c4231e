// The main function of the window's tests: any warning of the toolkit fails them, and whatever a slot throws.
#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>
#include <cstdio>

#include "app/application.h"
#include "app/kit/theme.h"
#include "app/start.h"

using namespace bronvel;

namespace {

int warnings = 0;

void hear(QtMsgType type, const QMessageLogContext&, const QString& message) {
  if (type == QtDebugMsg || type == QtInfoMsg) return;
  ++warnings;
  std::fprintf(stderr, "FAULT: the toolkit warned: %s\n", qPrintable(message));
}

}  // namespace

int main(int argc, char** argv) {
  qInstallMessageHandler(hear);
  prepare_graphics();
  Application app(argc, argv);
  if (const double larger = qEnvironmentVariable("BRONVEL_TEST_TYPE").toDouble(); larger > 0)
    theme::type_scale = larger;
  theme::apply(app);
  const int failed = Catch::Session().run(argc, argv);
  const int thrown = app.take_unexpected();
  if (thrown > 0) std::fprintf(stderr, "FAULT: %d exceptions left a slot\n", thrown);
  return failed == 0 && warnings + thrown > 0 ? 1 : failed;
}
