// A session without a bench: what the parts of the window ask and tell, driven by the test itself.
#pragma once

#include <QSignalSpy>
#include <QTemporaryDir>
#include <catch2/catch.hpp>

#include "app/window_driver.h"
#include "folders.h"

namespace bronvel {

struct Alone {
  QTemporaryDir copy;
  HandClock hand;
  Session session{hand.clock()};
  QStringList said;

  /// On a copy of an example; an empty scene without a folder if there is no name.
  explicit Alone(const std::string& example = "") {
    QObject::connect(&session, &Session::said, &session, [this](const QString& message) { said << message; });
    if (example.empty()) {
      session.open_new();
      return;
    }
    const std::string scene = copy.path().toStdString() + "/" + example;
    std::filesystem::copy(in_checkout("/examples/") + example, scene, std::filesystem::copy_options::recursive);
    session.open(QString::fromStdString(scene));
  }

  /// Plays that many ticks on, in small bites so that nothing counts as lost time.
  bool play_ticks(std::int64_t ticks) {
    const double rate = session.scene().world.tick_rate;
    const std::int64_t end = session.tick() + ticks;
    while (session.tick() < end) {
      const std::int64_t next = std::min<std::int64_t>(end, session.tick() + 12);
      hand.advance(static_cast<double>(next - session.tick()) / rate + 1e-9);
      if (!wait_until([&] {
            session.refresh();
            return session.tick() >= next;
          }))
        return false;
    }
    return true;
  }
  /// A box of that name, chosen.
  void add_box(const std::string& name, const Vec3& at) {
    session.edit("box", [&](Scene& scene) {
      Body box;
      box.name = name;
      box.position = at;
      box.surface = scene.surfaces.begin()->first;
      scene.bodies.push_back(box);
    });
    session.choose(name);
  }
};

}  // namespace bronvel
