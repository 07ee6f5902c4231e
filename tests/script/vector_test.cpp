// Vectors and turns of scripts against the same sums in C++.
#include <catch2/catch.hpp>

#include "geometry/base/random.h"
#include "script/sandbox/sandbox.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// Runs an expression for each set of random values; `x`, `y`, `z` of what it gives are watched.
class Sums {
 public:
  explicit Sums(std::uint64_t seed) : random_(seed) {}
  Vec3 vector(double size = 5) {
    return {random_.between(-size, size), random_.between(-size, size), random_.between(-size, size)};
  }
  double number(double low = -3, double high = 3) { return random_.between(low, high); }
  void check(const std::string& expression, const Vec3& wanted) {
    lines_ += "  local r = " + expression + "\n  watch('" + std::to_string(wanted_.size()) + "x', r.x) watch('" +
              std::to_string(wanted_.size()) + "y', r.y) watch('" + std::to_string(wanted_.size()) + "z', r.z)\n";
    wanted_.push_back({expression, wanted, true});
  }
  void check(const std::string& expression, double wanted) {
    lines_ += "  watch('" + std::to_string(wanted_.size()) + "x', " + expression + ")\n";
    wanted_.push_back({expression, Vec3(wanted, 0, 0), false});
  }
  void run() {
    Play play(full_scene("function on.tick()\n" + lines_ + "end\n"), 1);
    play.step();
    INFO(errors(play));
    std::map<std::string, double> got;
    for (const Watched& each : play.watched()) got[each.name] = each.value;
    for (std::size_t i = 0; i < wanted_.size(); ++i) {
      INFO(wanted_[i].expression);
      for (int k = 0; k < (wanted_[i].three ? 3 : 1); ++k) {
        const std::string name = std::to_string(i) + "xyz"[k];
        REQUIRE(got.contains(name));
        CHECK(got[name] == Approx(wanted_[i].value[k]).epsilon(1e-12).margin(1e-12));
      }
    }
  }

 private:
  struct Wanted {
    std::string expression;
    Vec3 value;
    bool three;
  };
  Random random_;
  std::string lines_;
  std::vector<Wanted> wanted_;
};

std::string lua(double x) {
  return "(" + number_text(x) + ")";
}
std::string lua(const Vec3& v) {
  return "vec(" + number_text(v.x()) + ", " + number_text(v.y()) + ", " + number_text(v.z()) + ")";
}
std::string lua_turn(const Vec3& axis, double angle) {
  return "turn(" + lua(axis) + ", " + number_text(angle) + ")";
}
Quat turn(const Vec3& axis, double angle) {
  return Quat(Eigen::AngleAxisd(angle, axis.normalized()));
}

}  // namespace

TEST_CASE("vectors of scripts are added, scaled, multiplied and measured as vectors are") {
  Sums sums(11);
  for (int i = 0; i < 4; ++i) {
    const Vec3 a = sums.vector(), b = sums.vector();
    const double s = sums.number(0.2, 3);
    sums.check(lua(a) + " + " + lua(b), a + b);
    sums.check(lua(a) + " - " + lua(b), a - b);
    sums.check("-" + lua(a), -a);
    sums.check(lua(a) + " * " + lua(s), a * s);
    sums.check(lua(s) + " * " + lua(a), s * a);
    sums.check(lua(a) + " / " + lua(s), a / s);
    sums.check(lua(a) + ":length()", a.norm());
    sums.check(lua(a) + ":unit()", a.normalized());
    sums.check(lua(a) + ":dot(" + lua(b) + ")", a.dot(b));
    sums.check(lua(a) + ":cross(" + lua(b) + ")", a.cross(b));
    const Vec3 n = b.normalized();
    sums.check(lua(a) + ":reflect(" + lua(n) + ", " + lua(s) + ")", a - (1 + s) * a.dot(n) * n);
    sums.check(lua(a) + ":limit(" + lua(s) + ")", a.norm() > s ? Vec3(s * a.normalized()) : a);
  }
  sums.check("vec(0, 0, 0):unit()", Vec3::Zero());
  sums.check("vec(0, 0, 0):limit(1)", Vec3::Zero());
  sums.run();
}

TEST_CASE("turns of scripts turn, follow one another, and go back") {
  Sums sums(12);
  for (int i = 0; i < 4; ++i) {
    const Vec3 a = sums.vector(), axis = sums.vector(), other = sums.vector(), to = sums.vector();
    const double angle = sums.number(), more = sums.number(), share = sums.number(0, 1);
    const Quat q = turn(axis, angle), r = turn(other, more);
    const std::string lq = lua_turn(axis, angle), lr = lua_turn(other, more);
    sums.check(lq + " * " + lua(a), q * a);
    sums.check("(" + lq + " * " + lr + ") * " + lua(a), q * (r * a));
    sums.check(lq + ":inverse() * " + lua(a), q.inverse() * a);
    sums.check(lq + ":angle()", std::abs(angle));
    sums.check(lq + ":axis()", (angle < 0 ? -axis : axis).normalized());
    sums.check(lq + ":blend(" + lr + ", " + lua(share) + ") * " + lua(a), q.slerp(share, r) * a);
    sums.check("turn.between(" + lua(a) + ", " + lua(to) + ") * " + lua(a), to.normalized() * a.norm());
    sums.check("turn.facing(" + lua(a) + ") * vec(0, 0, -1)", a.normalized());
    sums.check("turn.facing(" + lua(a) + ", " + lua(to) + ") * vec(0, 0, -1)", a.normalized());
    // Its left lies across what is up.
    sums.check("(turn.facing(" + lua(a) + ", " + lua(to) + ") * vec(1, 0, 0)):dot(" + lua(to) + ")", 0.0);
  }
  sums.check("turn() * vec(1, 2, 3)", Vec3(1, 2, 3));
  sums.check("turn.between(vec(1, 0, 0), vec(-1, 0, 0)) * vec(1, 0, 0)", Vec3(-1, 0, 0));
  sums.check("turn.between(vec(0, 2, 0), vec(0, 3, 0)) * vec(1, 2, 3)", Vec3(1, 2, 3));
  sums.run();
}

TEST_CASE("sums that are none stop the script and say why") {
  for (const char* wrong : {"vec(1, 2)", "vec(1, 2, 'x')", "vec(1, 2, 3) + 1", "vec(1, 2, 3) * vec(1, 2, 3)",
                            "1 / vec(1, 2, 3)", "turn(vec(0, 0, 0), 1)", "turn(1)", "turn(vec(0, 1, 0), 1) * 2",
                            "turn.between(vec(0, 0, 0), vec(1, 0, 0))", "turn.facing(vec(0, 0, 0))",
                            "vec(1, 2, 3):dot(1)", "vec(1, 2, 3):limit(-1)", "vec(1, 2, 3).w", "#vec(1, 2, 3)"}) {
    INFO(wrong);
    Play play(full_scene(std::string("function on.tick()\n  local r = ") + wrong + "\n  print('went on')\nend\n"), 1);
    play.step();
    const std::vector<LogLine> log = play.take_log();
    REQUIRE(log.size() >= 1);
    CHECK(log[0].level == LogLevel::error);
    CHECK(log[0].line == 2);
    CHECK(log[0].text.size() > 8);
  }
}

TEST_CASE("a vector never changes, whoever has it") {
  Play play(
      full_scene("local kept = vec(1, 2, 3)\nfunction on.tick()\n  local also = kept\n  also = also * 2\n"
                 "  watch('kept', kept.y) watch('also', also.y)\n  local p = body.position\n  p = p + vec(0, 9, 0)\n"
                 "  watch('same', (body.position - p).y)\nend\n"),
      1);
  play.step();
  for (const Watched& each : play.watched())
    CHECK(each.value == (each.name == "kept" ? 2.0 : each.name == "also" ? 4.0 : -9.0));
  CHECK(play.watched().size() == 3);
  Play writes(full_scene("function on.tick() local v = vec(1, 2, 3) v.x = 4 end"), 1);
  writes.step();
  CHECK(errors(writes).size() > 5);
}
