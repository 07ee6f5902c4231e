// What is heard at the bench: sounds of plays and takes, through the desktop's sound.
#pragma once

#include <QObject>
#include <QThread>
#include <atomic>
#include <memory>
#include <mutex>
#include <vector>

#include "sound/mixer.h"

namespace bronvel {

/// What waits to be heard. Safe to use from any thread; nobody waits in it for more than a copy.
class SoundQueue {
 public:
  void give(Heard heard);
  void set_ear(const Ear& ear);
  void set_level(double level);
  void set_bank(std::shared_ptr<const SoundBank> bank);
  void hush();
  bool has_file(const std::string& name) const;
  /// Whether anybody would hear it: else it need not be worked out.
  bool wanted() const { return wanted_; }
  void set_wanted(bool wanted) { wanted_ = wanted; }
  std::size_t given() const { return given_; }  ///< sounds that began, since the start
  /// Passes what waits on to the mixer. Of the thread that renders.
  void pass_on(Mixer& mixer);

 private:
  mutable std::mutex mutex_;
  std::vector<Heard> waiting_;
  Ear ear_;
  double level_ = 1;
  bool hush_ = false;
  std::shared_ptr<const SoundBank> bank_ = std::make_shared<SoundBank>();
  std::atomic<bool> wanted_{false};
  std::atomic<std::size_t> given_{0};
};

/// Sounds in a thread of its own, from the first time that there is something to be heard.
class Loudspeaker : public QObject {
  Q_OBJECT

 public:
  explicit Loudspeaker(QObject* parent = nullptr);
  ~Loudspeaker() override;

  enum class Card { not_tried, there, none };
  Card card() const { return card_; }
  bool on() const { return on_; }
  void set_on(bool on);  ///< remembered from one session to the next, as the level is
  double level() const { return level_; }
  void set_level(double level);  ///< 0 to 1
  const std::shared_ptr<SoundQueue>& queue() { return queue_; }
  /// The sounds of that scene's folder from now on; what can't be read is given back.
  std::vector<std::string> open(const std::filesystem::path& scene_folder);
  void attend();  ///< begins to play if something was given

 signals:
  void changed();

 private:
  void tell();

  std::shared_ptr<SoundQueue> queue_ = std::make_shared<SoundQueue>();
  QThread thread_;
  QObject* worker_ = nullptr;  // lives in the thread
  bool on_ = true;
  double level_ = 0.7;
  std::size_t attended_ = 0;
  std::atomic<Card> card_{Card::not_tried};
};

}  // namespace bronvel
