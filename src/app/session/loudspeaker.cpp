// The queue, and the thread that empties it into the sound card.
#include "app/session/loudspeaker.h"

#include <QAudioDevice>
#include <QAudioSink>
#include <QFileInfo>
#include <QIODevice>
#include <QLoggingCategory>
#include <QMediaDevices>
#include <utility>

#include "app/session/settings.h"

namespace bronvel {
namespace {

// What the sound card reads from. Lives in the loudspeaker's thread.
class Rendering : public QIODevice {
 public:
  explicit Rendering(std::shared_ptr<SoundQueue> queue) : queue_(std::move(queue)) {
    open(QIODevice::ReadOnly | QIODevice::Unbuffered);
  }
  bool isSequential() const override { return true; }
  qint64 bytesAvailable() const override { return qint64{1} << 20; }
  std::int64_t frames() const { return frames_; }  ///< that were asked for so far
  bool quiet() const { return quiet_frames_ > std::int64_t{5} * sound_rate; }

 protected:
  qint64 readData(char* to, qint64 most) override {
    constexpr qint64 frame = 2 * sizeof(float);
    const auto frames = static_cast<std::size_t>(most / frame);
    samples_.resize(2 * frames);
    queue_->pass_on(mixer_);
    frames_ += static_cast<std::int64_t>(frames);
    quiet_frames_ = mixer_.sounding() > 0 ? 0 : quiet_frames_ + static_cast<std::int64_t>(frames);
    mixer_.render(samples_);
    std::copy_n(reinterpret_cast<const char*>(samples_.data()), samples_.size() * sizeof(float), to);
    return static_cast<qint64>(frames) * frame;
  }
  qint64 writeData(const char*, qint64) override { return -1; }

 private:
  std::shared_ptr<SoundQueue> queue_;
  Mixer mixer_;
  std::vector<float> samples_;
  std::int64_t quiet_frames_ = 0, frames_ = 0;
};

// Where the desktop's sound service listens. Asked for it where there is none, the toolkit would complain on standard
// error.
bool sound_service_there() {
  if (!qEnvironmentVariableIsEmpty("PULSE_SERVER")) return true;
  const QString runtime =
      qEnvironmentVariable("PULSE_RUNTIME_PATH", qEnvironmentVariable("XDG_RUNTIME_DIR") + "/pulse");
  return QFileInfo::exists(runtime + "/native") || QFileInfo::exists("/var/run/pulse/native");
}

// The sink and what it reads from, made and ended in the loudspeaker's thread.
class Worker : public QObject {
 public:
  explicit Worker(std::shared_ptr<SoundQueue> queue) : queue_(std::move(queue)) {}

  /// Whether there is a sound card.
  bool begin() {
    if (sink_) return true;
    if (!sound_service_there()) return false;
    const QAudioDevice device = QMediaDevices::defaultAudioOutput();
    if (device.isNull()) return false;
    QAudioFormat format;
    format.setSampleRate(sound_rate);
    format.setChannelCount(2);
    format.setSampleFormat(QAudioFormat::Float);
    if (!device.isFormatSupported(format)) return false;
    rendering_ = std::make_unique<Rendering>(queue_);
    // Half of it is written before the service begins, which wants a little more than 40 ms of it.
    constexpr int buffered = 80;  // ms
    begin_sink(device, format, buffered);
    timer_ = startTimer(1000);
    return sink_->error() == QAudio::NoError;
  }

 protected:
  void timerEvent(QTimerEvent*) override {
    if (rendering_->quiet()) {
      killTimer(timer_);
      sink_->stop();
      sink_.reset();
      rendering_.reset();
      return;
    }
    // A service that asks for nothing waits for more than it was given: as much as it likes, then.
    if (rendering_->frames() == frames_seen_ && !as_it_likes_) {
      as_it_likes_ = true;
      sink_->stop();
      begin_sink(QMediaDevices::defaultAudioOutput(), sink_->format(), 0);
    }
    frames_seen_ = rendering_->frames();
  }

 private:
  void begin_sink(const QAudioDevice& device, const QAudioFormat& format, int buffered_ms) {
    sink_ = std::make_unique<QAudioSink>(device, format);
    if (buffered_ms > 0) sink_->setBufferSize(format.bytesForDuration(qint64{buffered_ms} * 1000));
    sink_->start(rendering_.get());
  }

  std::shared_ptr<SoundQueue> queue_;
  std::unique_ptr<Rendering> rendering_;
  std::unique_ptr<QAudioSink> sink_;
  int timer_ = 0;
  std::int64_t frames_seen_ = 0;
  bool as_it_likes_ = false;
};

constexpr const char* on_setting = "sound/on";
constexpr const char* level_setting = "sound/level";

}  // namespace

void SoundQueue::give(Heard heard) {
  given_ += heard.onsets.size();
  const std::lock_guard<std::mutex> lock(mutex_);
  // Nobody empties it: what is old is past.
  constexpr std::size_t most = 500;
  if (waiting_.size() >= most) waiting_.clear();
  waiting_.push_back(std::move(heard));
}

void SoundQueue::set_ear(const Ear& ear) {
  const std::lock_guard<std::mutex> lock(mutex_);
  ear_ = ear;
}

void SoundQueue::set_level(double level) {
  const std::lock_guard<std::mutex> lock(mutex_);
  level_ = level;
}

void SoundQueue::set_bank(std::shared_ptr<const SoundBank> bank) {
  const std::lock_guard<std::mutex> lock(mutex_);
  bank_ = std::move(bank);
}

void SoundQueue::hush() {
  const std::lock_guard<std::mutex> lock(mutex_);
  waiting_.clear();
  hush_ = true;
}

bool SoundQueue::has_file(const std::string& name) const {
  const std::lock_guard<std::mutex> lock(mutex_);
  return bank_->has(name);
}

void SoundQueue::pass_on(Mixer& mixer) {
  std::vector<Heard> waiting;
  std::shared_ptr<const SoundBank> bank;
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    waiting.swap(waiting_);
    bank = bank_;
    mixer.set_ear(ear_);
    mixer.set_level(level_);
    if (std::exchange(hush_, false)) mixer.hush();
  }
  for (const Heard& heard : waiting) {
    for (const Onset& onset : heard.onsets) mixer.start(onset, bank->find(onset.name));
    mixer.slide(heard.slides);
  }
}

Loudspeaker::Loudspeaker(QObject* parent) : QObject(parent) {
  on_ = bench_settings().value(on_setting, true).toBool();
  level_ = std::clamp(bench_settings().value(level_setting, level_).toDouble(), 0.0, 1.0);
  queue_->set_wanted(on_);
  queue_->set_level(level_);
}

Loudspeaker::~Loudspeaker() {
  if (!worker_) return;
  thread_.quit();
  thread_.wait();
}

void Loudspeaker::tell() {
  queue_->set_wanted(on_ && card_ != Card::none);
  queue_->set_level(level_);
  emit changed();
}

void Loudspeaker::set_on(bool on) {
  on_ = on;
  bench_settings().setValue(on_setting, on);
  if (!on) queue_->hush();
  // A card may have come since.
  if (on && card_ == Card::none) card_ = Card::not_tried;
  tell();
}

void Loudspeaker::set_level(double level) {
  level_ = std::clamp(level, 0.0, 1.0);
  bench_settings().setValue(level_setting, level_);
  tell();
}

std::vector<std::string> Loudspeaker::open(const std::filesystem::path& scene_folder) {
  auto bank = std::make_shared<SoundBank>(SoundBank::of(scene_folder));
  std::vector<std::string> faults = bank->faults();
  queue_->hush();
  queue_->set_bank(std::move(bank));
  return faults;
}

void Loudspeaker::attend() {
  if (!on_ || card_ == Card::none || queue_->given() == attended_) return;
  attended_ = queue_->given();
  if (!worker_) {
    // That there is no sound card is told by the bench, and not by the toolkit.
    QLoggingCategory::setFilterRules("qt.multimedia.*=false");
    worker_ = new Worker(queue_);
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    thread_.start();
  }
  QMetaObject::invokeMethod(worker_, [this, worker = static_cast<Worker*>(worker_)] {
    const Card found = worker->begin() ? Card::there : Card::none;
    if (card_.exchange(found) == found) return;
    QMetaObject::invokeMethod(this, &Loudspeaker::tell);
  });
}

}  // namespace bronvel
