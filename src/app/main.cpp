// The program: `bronvel [SCENE]` opens the bench.
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSurfaceFormat>
#include <cstdio>

#include "app/bench.h"
#include "app/start.h"
#include "app/theme.h"

int main(int argc, char** argv) {
  QElapsedTimer since_start;
  since_start.start();
  bronvel::prepare_graphics();
  QApplication app(argc, argv);
  QApplication::setApplicationName("bronvel");
  QCommandLineParser parser;
  parser.setApplicationDescription("A bench for gameplay physics.");
  parser.addHelpOption();
  parser.addPositionalArgument("scene", "the scene's folder; the harbour demo if none is given");
  const QCommandLineOption timing("time-start", "print how long opening took, then close");
  parser.addOption(timing);
  parser.process(app);
  bronvel::theme::apply(app);

  bronvel::Bench bench;
  const QStringList given = parser.positionalArguments();
  const QString demo = QString(BRONVEL_EXAMPLES) + "/skerrow-quay";
  if (!bench.open(given.isEmpty() ? demo : given.first()) && !given.isEmpty())
    std::fprintf(stderr, "see the notice on the stage\n");
  bench.show();
  bench.offer_left_over();
  if (parser.isSet(timing)) {
    QObject::connect(bench.stage(), &QOpenGLWidget::frameSwapped, &app, [&] {
      std::printf("first picture after %lld ms\n", static_cast<long long>(since_start.elapsed()));
      QApplication::exit(0);
    });
  }
  return QApplication::exec();
}
