// The rows of each kind of joint.
#include "dynamics/joints/joint_rows.h"

namespace bronvel {
namespace {

// A joint's frames in the scene.
struct Frames {
  Vec3 arm_a, arm_b;  // from the centres of mass to the anchors, m
  Vec3 gap;           // from A's anchor to B's, m
  Mat3 axes_a, axes_b;
  Vec3 anchor_a, anchor_b;
};

Frames frames_of(const JointSettings& s, const JointEnds& e) {
  Frames f;
  f.arm_a = e.a.orientation * (s.frame_a.position - e.centre_a);
  f.arm_b = e.b.orientation * (s.frame_b.position - e.centre_b);
  f.anchor_a = e.a.centre + f.arm_a;
  f.anchor_b = e.b.centre + f.arm_b;
  // Through the difference of the centres, so that far from the origin no digits are lost.
  f.gap = (e.b.centre - e.a.centre) + (f.arm_b - f.arm_a);
  f.axes_a = (e.a.orientation * s.frame_a.orientation).toRotationMatrix();
  f.axes_b = (e.b.orientation * s.frame_b.orientation).toRotationMatrix();
  return f;
}

// One measure of the joint: its value and how its rate follows from the motions.
struct Measure {
  double value = 0;
  RowEnd a, b;
};

// Distance of the anchors along a direction that stands still in the scene.
Measure apart_along(const Frames& f, const Vec3& way) {
  return {f.gap.dot(way), {-way, -f.arm_a.cross(way)}, {way, f.arm_b.cross(way)}};
}

// The same along a direction that turns with A.
Measure travel(const Frames& f, const Vec3& way) {
  return {f.gap.dot(way), {-way, -(f.arm_a + f.gap).cross(way)}, {way, f.arm_b.cross(way)}};
}

// How far u, which turns with A, and w, which turns with B, are from square.
Measure squareness(const Vec3& u, const Vec3& w) {
  const Vec3 across = u.cross(w);
  return {u.dot(w), {Vec3::Zero(), across}, {Vec3::Zero(), -across}};
}

Measure turn_about(double angle, const Vec3& axis) {
  return {angle, {Vec3::Zero(), -axis}, {Vec3::Zero(), axis}};
}

// Angle of B's frame against A's about their common axis k, nearest to `near` of all that differ by whole turns.
double hinge_angle(const Frames& f, int k, double near) {
  const Vec3 u = f.axes_b.col((k + 1) % 3);
  const double angle = std::atan2(u.dot(f.axes_a.col((k + 2) % 3)), u.dot(f.axes_a.col((k + 1) % 3)));
  return angle + 2 * pi * std::round((near - angle) / (2 * pi));
}

// The rotation vector of B's frame in A's, and the matrix that takes the relative angular velocity (in A's frame) to
// its rate: the inverse left Jacobian of rotations (Chirikjian, Stochastic Models, Information Theory and Lie Groups 2,
// 2012, ch. 10).
struct RelativeTurn {
  Vec3 vector;
  Mat3 rate;
};

RelativeTurn relative_turn(const Frames& f) {
  Quat q(Mat3(f.axes_a.transpose() * f.axes_b));
  if (q.w() < 0) q.coeffs() = -q.coeffs();
  const double sine = q.vec().norm();
  const double angle = 2 * std::atan2(sine, q.w());
  RelativeTurn t;
  t.vector = sine > 1e-12 ? Vec3(q.vec() * (angle / sine)) : Vec3(2 * q.vec());
  const Mat3 cross = cross_matrix(t.vector);
  const double share =
      angle > 1e-3 ? 1 / (angle * angle) - (1 + std::cos(angle)) / (2 * angle * std::sin(angle)) : 1.0 / 12;
  t.rate = Mat3::Identity() - 0.5 * cross + (angle < pi - 1e-6 ? share : 1 / (angle * angle)) * cross * cross;
  return t;
}

Measure turn_part(const Frames& f, const RelativeTurn& t, int k) {
  return turn_about(t.vector[k], f.axes_a * t.rate.row(k).transpose());
}

void add(std::vector<JointRow>& rows, const Measure& m, RowRule rule, double error, double sign = 1) {
  JointRow row;
  row.a = {sign * m.a.linear, sign * m.a.angular};
  row.b = {sign * m.b.linear, sign * m.b.angular};
  row.rule = rule;
  row.error = error;
  rows.push_back(row);
}

void add_axis(std::vector<JointRow>& rows, const Measure& m, const JointAxis& axis, double longer = 0,
              double growth = 0) {
  if (axis.freedom == Freedom::locked) {
    add(rows, m, RowRule::equal, m.value - axis.rest);
    return;
  }
  if (axis.freedom == Freedom::limited && axis.low == axis.high && longer == 0 && growth == 0) {
    add(rows, m, RowRule::equal, m.value - axis.low);
    return;
  }
  if (axis.freedom == Freedom::limited) {
    add(rows, m, RowRule::at_least, m.value - axis.low);
    add(rows, m, RowRule::at_least, axis.high + longer - m.value, -1);
    rows.back().drift = growth;
  }
  if (axis.sprung()) {
    add(rows, m, RowRule::spring, m.value - axis.rest - longer);
    rows.back().stiffness = axis.stiffness;
    rows.back().damping = axis.damping;
  }
  if (axis.driven()) {
    add(rows, m, RowRule::motor, 0);
    rows.back().target = axis.motor_speed;
    rows.back().most = axis.motor_most;
  }
}

void add_point(std::vector<JointRow>& rows, const Frames& f) {
  for (int i = 0; i < 3; ++i) {
    const Measure m = apart_along(f, Vec3::Unit(i));
    add(rows, m, RowRule::equal, m.value);
  }
}

// Keeps axis k of the two frames in line.
void add_common_axis(std::vector<JointRow>& rows, const Frames& f, int k) {
  for (const int other : {(k + 1) % 3, (k + 2) % 3}) {
    const Measure m = squareness(f.axes_a.col(other), f.axes_b.col(k));
    add(rows, m, RowRule::equal, m.value);
  }
}

void add_no_turn(std::vector<JointRow>& rows, const Frames& f) {
  const RelativeTurn t = relative_turn(f);
  for (int k = 0; k < 3; ++k) {
    const Measure m = turn_part(f, t, k);
    add(rows, m, RowRule::equal, m.value);
  }
}

void add_cone_and_twist(std::vector<JointRow>& rows, const Frames& f, const JointSettings& s) {
  const Vec3 x_a = f.axes_a.col(0), x_b = f.axes_b.col(0);
  if (s.cone < pi) {
    const Vec3 across = x_a.cross(x_b);
    const double sine = across.norm(), angle = std::atan2(sine, x_a.dot(x_b));
    const Measure m = turn_about(angle, sine > 1e-9 ? Vec3(across / sine) : any_perpendicular(x_a));
    add(rows, m, RowRule::at_least, s.cone - angle, -1);
  }
  Quat q(Mat3(f.axes_a.transpose() * f.axes_b));
  if (q.w() < 0) q.coeffs() = -q.coeffs();
  // The twist of a turn is what is left of it when X is first swung the shortest way.
  const Vec3 rate = (x_a + x_b) / std::max(1 + x_a.dot(x_b), 1e-6);
  add_axis(rows, turn_about(2 * std::atan2(q.x(), q.w()), rate), s.along);
}

Measure length(const Frames& f) {
  const double value = f.gap.norm();
  Measure m = apart_along(f, value > 1e-12 ? Vec3(f.gap / value) : Vec3::Unit(1));
  m.value = value;
  return m;
}

Measure pulley_length(const Frames& f, const JointSettings& s) {
  const Vec3 to_a = f.anchor_a - s.support_a, to_b = f.anchor_b - s.support_b;
  const double length_a = to_a.norm(), length_b = to_b.norm();
  const Vec3 way_a = length_a > 1e-12 ? Vec3(to_a / length_a) : Vec3(-Vec3::Unit(1));
  const Vec3 way_b = s.ratio * (length_b > 1e-12 ? Vec3(to_b / length_b) : Vec3(-Vec3::Unit(1)));
  return {length_a + s.ratio * length_b, {way_a, f.arm_a.cross(way_a)}, {way_b, f.arm_b.cross(way_b)}};
}

// The turning axis that alone is not locked, or -1.
int only_turn(const std::array<JointAxis, 6>& axes) {
  int found = -1, count = 0;
  for (int k = 0; k < 3; ++k) {
    if (axes[static_cast<std::size_t>(k) + 3].freedom == Freedom::locked) continue;
    found = k;
    ++count;
  }
  return count == 1 ? found : -1;
}

void add_six_axes(std::vector<JointRow>& rows, const Frames& f, const JointRecord& joint) {
  const auto& axes = joint.settings.axes;
  for (int i = 0; i < 3; ++i) add_axis(rows, travel(f, f.axes_a.col(i)), axes[static_cast<std::size_t>(i)]);
  const int k = only_turn(axes);
  if (k >= 0) {
    add_common_axis(rows, f, k);
    add_axis(rows, turn_about(hinge_angle(f, k, joint.angle), f.axes_a.col(k)), axes[static_cast<std::size_t>(k) + 3]);
    return;
  }
  const RelativeTurn t = relative_turn(f);
  for (int i = 0; i < 3; ++i) add_axis(rows, turn_part(f, t, i), axes[static_cast<std::size_t>(i) + 3]);
}

}  // namespace

JointEnds joint_ends(const WorldState& state, const FlatArray<BodyState>& motions, const JointRecord& joint) {
  static const BodyState scene_motion{};
  const std::uint32_t a = joint.settings.a.index, b = joint.settings.b.index;
  return {a == no_body ? scene_motion : motions[a], b == no_body ? scene_motion : motions[b],
          a == no_body ? Vec3(Vec3::Zero()) : state.records[a].mass.centre,
          b == no_body ? Vec3(Vec3::Zero()) : state.records[b].mass.centre};
}

void add_joint_rows(const JointRecord& joint, const JointEnds& ends, std::vector<JointRow>& rows) {
  const JointSettings& s = joint.settings;
  const Frames f = frames_of(s, ends);
  switch (s.kind) {
    case JointKind::ball:
      add_point(rows, f);
      add_cone_and_twist(rows, f, s);
      break;
    case JointKind::hinge:
      add_point(rows, f);
      add_common_axis(rows, f, 0);
      add_axis(rows, turn_about(hinge_angle(f, 0, joint.angle), f.axes_a.col(0)), s.along);
      break;
    case JointKind::slider:
      add_no_turn(rows, f);
      for (const int i : {1, 2}) {
        const Measure m = travel(f, f.axes_a.col(i));
        add(rows, m, RowRule::equal, m.value);
      }
      add_axis(rows, travel(f, f.axes_a.col(0)), s.along);
      break;
    case JointKind::fixed:
      add_point(rows, f);
      add_no_turn(rows, f);
      break;
    case JointKind::distance:
      add_axis(rows, length(f), s.along, joint.paid_out, s.pay_out);
      break;
    case JointKind::six_axis:
      add_six_axes(rows, f, joint);
      break;
    case JointKind::pulley:
      add_axis(rows, pulley_length(f, s), s.along);
      break;
  }
}

JointTravel joint_travel(const JointRecord& joint, const JointEnds& ends) {
  const Frames f = frames_of(joint.settings, ends);
  const auto of = [&](const Measure& m) { return JointTravel{m.value, m.a.rate(ends.a) + m.b.rate(ends.b)}; };
  switch (joint.settings.kind) {
    case JointKind::hinge:
      return of(turn_about(hinge_angle(f, 0, joint.angle), f.axes_a.col(0)));
    case JointKind::six_axis: {
      const int k = only_turn(joint.settings.axes);
      if (k < 0) break;
      return of(turn_about(hinge_angle(f, k, joint.angle), f.axes_a.col(k)));
    }
    case JointKind::slider:
      return of(travel(f, f.axes_a.col(0)));
    case JointKind::distance:
      return of(length(f));
    case JointKind::pulley:
      return of(pulley_length(f, joint.settings));
    case JointKind::ball:
    case JointKind::fixed:
      break;
  }
  return {};
}

Vec3 joint_arm_a(const JointRecord& joint, const JointEnds& ends) {
  return ends.a.orientation * (joint.settings.frame_a.position - ends.centre_a);
}

Vec3 joint_arm_b(const JointRecord& joint, const JointEnds& ends) {
  return ends.b.orientation * (joint.settings.frame_b.position - ends.centre_b);
}

}  // namespace bronvel
