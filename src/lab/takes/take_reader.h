// Looking into a take: any body, number or frame at any tick, with what was unpacked kept for the next look.
#pragma once

#include <optional>

#include "lab/readings/floating_reading.h"
#include "lab/takes/take.h"

namespace bronvel {

/// Of one thread. Looking at another take forgets what was unpacked of the one before.
class TakeReader {
 public:
  /// Before another take is looked at that may lie where the last one lay.
  void forget();
  /// All that is to be seen of the take at the tick. Ticks outside of it are taken as its first or last.
  Frame frame(const Take& take, std::int64_t tick);
  /// None where the body was not there.
  std::optional<BodyReading> body(const Take& take, const std::string& name, std::int64_t tick);
  /// How the body floated; none where it was not there or in no water.
  std::optional<FloatingReading> floating(const Take& take, const std::string& name, std::int64_t tick);
  /// The body's bonds that held; none where it had none or was not there.
  std::vector<BondReading> bonds(const Take& take, const std::string& name, std::int64_t tick);
  /// What touched, by places in the take's bodies. Valid until the next look.
  std::span<const ContactMark> contacts(const Take& take, std::int64_t tick);
  std::optional<JointReading> joint(const Take& take, const std::string& name, std::int64_t tick);
  /// The body's settings at the tick; null where it was not there.
  std::shared_ptr<const Body> settings(const Take& take, const std::string& name, std::int64_t tick) const;
  /// A component of the channel; not a number where there is none.
  double number(const Take& take, const Channel& channel, int component, std::int64_t tick);
  /// The same for the ticks from `from` to before `to`, in one go.
  void numbers(const Take& take, const Channel& channel, int component, std::int64_t from, std::int64_t to,
               std::vector<double>& out);

 private:
  struct Unpacked {
    std::int64_t first = 0, count = 0;
    bool still = false;  // its one row stands for all
    std::vector<double> rows;
  };
  enum class Kind { body, joint, number };
  const double* row(const Take& take, Kind kind, std::size_t track, std::int64_t row_at);
  BodyReading reading(const Take& take, std::size_t track, std::int64_t tick);
  void look_at(const Take& take);

  const Take* of_ = nullptr;
  std::int64_t ticks_ = 0;
  std::array<std::vector<Unpacked>, 3> unpacked_;
  std::int64_t contacts_from_ = 0;
  std::vector<std::vector<ContactMark>> contacts_;  // of the ticks from there on
  Packer packer_;
};

}  // namespace bronvel
