// The program: `bronvel [SCENE]` opens the bench.
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSurfaceFormat>
#include <clocale>
#include <cstdio>
#include <cstdlib>
#include <exception>

#include "app/application.h"
#include "app/bench.h"
#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/start.h"

namespace {

int run(int argc, char** argv) {
  QElapsedTimer since_start;
  since_start.start();
  bronvel::prepare_graphics();
  bronvel::Application app(argc, argv);
  QApplication::setApplicationName("bronvel");
  // Scripts compare texts the same way here as on the command line, whatever the desktop's language.
  std::setlocale(LC_COLLATE, "C");
  std::setlocale(LC_NUMERIC, "C");
  QCommandLineParser parser;
  parser.setApplicationDescription("A bench for gameplay physics.");
  parser.addHelpOption();
  parser.addPositionalArgument("scene", "the scene's folder; the harbour demo if none is given");
  const QCommandLineOption timing("time-start", "print how long opening took, then close");
  parser.addOption(timing);
  parser.process(app);
  bronvel::theme::type_scale = bronvel::chosen_type();
  bronvel::theme::apply(app, bronvel::chosen_sheet());

  auto bench = std::make_unique<bronvel::Bench>();
  const QStringList given = parser.positionalArguments();
  const QString demo = QString::fromStdString(bronvel::examples_folder()) + "/skerrow-quay";
  if (!bench->open(given.isEmpty() ? demo : given.first()) && !given.isEmpty())
    std::fprintf(stderr, "see the notice on the stage\n");
  bench->show();
  bench->offer_left_over();
  // Widgets keep the colours that they were made with: another sheet, another window.
  const std::function<void()> make_anew = [&] {
    const QString path = bench->session().path();
    const QRect place = bench->geometry();
    bench.reset();
    bronvel::theme::type_scale = bronvel::chosen_type();
    bronvel::theme::apply(app, bronvel::chosen_sheet());
    bench = std::make_unique<bronvel::Bench>();
    bench->setGeometry(place);
    bench->open(path);
    bench->show();
    QObject::connect(bench.get(), &bronvel::Bench::made_anew_asked, &app, make_anew, Qt::QueuedConnection);
  };
  QObject::connect(bench.get(), &bronvel::Bench::made_anew_asked, &app, make_anew, Qt::QueuedConnection);
  if (parser.isSet(timing)) {
    QObject::connect(bench->stage(), &bronvel::Stage::drawn, &app, [&] {
      std::printf("first picture after %lld ms\n", static_cast<long long>(since_start.elapsed()));
      QApplication::exit(0);
    });
  }
  return QApplication::exec();
}

}  // namespace

int main(int argc, char** argv) try {
  const int code = run(argc, argv);
  // A play that was given up still runs: nothing may be tidied up under it.
  if (bronvel::Runner::any_given_up()) std::_Exit(code);
  return code;
} catch (const std::exception& e) {
  std::fprintf(stderr, "bronvel: %s\n", e.what());
  return 1;
} catch (...) {
  std::fprintf(stderr, "bronvel: something went wrong that has no name\n");
  return 1;
}
