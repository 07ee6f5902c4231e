// What goes wrong outside: a full disk, a folder that is gone, no memory. The bench says it in words and goes on.
#include <sys/resource.h>

#include <QLabel>
#include <QMessageBox>
#include <QTimer>
#include <catch2/catch.hpp>
#include <csignal>
#include <fstream>
#include <new>

#include "app/window.h"
#include "lab/takes/take_file.h"
#include "scene/files/folder.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

using namespace bronvel;

namespace {

// No file can grow past so many bytes, as on a disk that is full.
class FullDisk {
 public:
  explicit FullDisk(rlim_t bytes = 64) {
    std::signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &before_);
    const rlimit now{bytes, before_.rlim_max};
    setrlimit(RLIMIT_FSIZE, &now);
  }
  ~FullDisk() { setrlimit(RLIMIT_FSIZE, &before_); }
  FullDisk(const FullDisk&) = delete;
  FullDisk& operator=(const FullDisk&) = delete;

 private:
  rlimit before_{};
};

QString notice(Window& w) {
  auto* text = w.find<QLabel>("notice_text");
  return text->isVisible() ? text->text() : QString();
}

// Answers no to whatever asks.
struct NoSayer {
  QTimer timer;
  NoSayer() {
    QObject::connect(&timer, &QTimer::timeout, [] {
      if (QWidget* asks = QApplication::activeModalWidget()) QTest::keyClick(asks, Qt::Key_Escape);
      if (QWidget* menu = QApplication::activePopupWidget()) menu->close();
    });
    timer.start(20);
  }
};

void change(Window& w, double mass) {
  w.bench.session().edit("heavier", [&](Scene& scene) { scene.find("fender")->mass = mass; });
}

}  // namespace

TEST_CASE("a full disk: nothing that was there is lost, the words say so, and saving goes on when there is room") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const std::string file = session.path().toStdString() + "/scene.json", before = read_file(file);
  change(w, 11);
  {
    const FullDisk full;
    CHECK_FALSE(w.bench.save());
    CHECK(notice(w).contains("Not saved"));
    CHECK_FALSE(session.saved());
    CHECK_FALSE(w.bench.save_as(w.copy.path() + "/elsewhere"));
    CHECK(session.path().toStdString() + "/scene.json" == file);
    w.click("play");
    REQUIRE(w.play(20));
    w.click("stop");
    CHECK_THROWS_WITH(session.pin_take(1, true), Catch::Contains("take-1.take"));
    CHECK_FALSE(session.takes().back().label.pinned);
  }
  CHECK(read_file(file) == before);
  CHECK(w.bench.save());
  CHECK(read_scene(read_file(file), file, session.scene().models).find("fender")->mass == 11);
}

TEST_CASE("a folder that is gone is said when one saves and when one opens, and is not made anew unasked") {
  Window w("skerrow-quay");
  Session& session = w.bench.session();
  const std::filesystem::path folder = session.path().toStdString();
  std::filesystem::remove_all(folder);
  CHECK_FALSE(w.bench.open(session.path()));
  CHECK(notice(w).contains("not a scene folder"));
  CHECK(session.scene().name == "Skerrow quay");
  change(w, 12);
  CHECK_FALSE(w.bench.save());
  CHECK(notice(w).contains("not there any more"));
  CHECK_FALSE(std::filesystem::exists(folder));
  CHECK(w.bench.save_as(session.path()));  // asked for
  CHECK(open_folder(folder).scene.find("fender")->mass == 12);
  // A file stands where the folder should.
  std::filesystem::remove_all(folder);
  std::ofstream(folder) << "in the way";
  change(w, 13);
  CHECK_FALSE(w.bench.save());
  CHECK(notice(w).contains("Not saved"));
  CHECK_FALSE(session.saved());
}

TEST_CASE("no memory for what was asked: said, and the bench goes on") {
  Window w("skerrow-quay");
  QTimer::singleShot(0, &w.bench, [] { throw std::bad_alloc(); });
  CHECK(wait_until([&] { return w.log().find("There is not enough memory for this.") != std::string::npos; }));
  w.click("play");
  CHECK(w.play(10));
}

TEST_CASE("every command of the bench on a full disk, in a folder that is gone: none ends it, and the scene stands") {
  Window w("three-bells");
  Session& session = w.bench.session();
  w.click("play");
  REQUIRE(w.play(30));
  w.click("stop");
  const Scene scene = session.scene();
  std::filesystem::remove_all(session.path().toStdString());
  std::ofstream(session.path().toStdString()) << "in the way";
  const NoSayer no;
  const FullDisk full;
  int run = 0;
  for (const bool playing : {false, true}) {
    if (playing) session.play();
    for (const Command& command : commands_of_buttons(&w.bench)) {
      INFO(command.name.toStdString() << (playing ? " in play" : ""));
      // What a slot throws ends at the application, as a press would.
      QTimer::singleShot(0, &w.bench, command.run);
      QTest::qWait(1);
      QApplication::processEvents();
      CHECK(w.bench.isVisible());
      ++run;
      if (playing && session.play_state() == Session::PlayState::editing) session.play();
    }
    for (const int key : {Qt::Key_S, Qt::Key_N, Qt::Key_O, Qt::Key_Z}) {
      QTest::keyClick(&w.bench, static_cast<Qt::Key>(key), Qt::ControlModifier);
      QApplication::processEvents();
      CHECK(w.bench.isVisible());
    }
  }
  CHECK(run > 60);
  session.stop();
  session.drop_pending();
  const std::string text = write_scene(session.scene());
  CHECK(read_scene(text, "what stands", session.scene().models) == session.scene());
}
