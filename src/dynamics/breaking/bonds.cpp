// The lattice of bonds and its equilibrium.
#include "dynamics/breaking/bonds.h"

#include <Eigen/Cholesky>

#include "geometry/base/disjoint_sets.h"

namespace bronvel {
namespace {

constexpr double shear_stiffness = 0.4;  // of a beam against that along it, as of an elastic solid with ν = 0.25
constexpr double settled_residual = 1e-4;
constexpr double nothing_left = 1e-18;      // of what the loads come to, squared residuals
constexpr std::size_t cluster_pieces = 10;  // about as many pieces in a cluster
constexpr std::size_t most_clusters = 32;

}  // namespace

void BondSolver::prepare(const PieceSet& set, const BondedPart& part, double density) {
  const std::size_t n = part.pieces.size();
  centres_.resize(n);
  masses_.resize(n);
  inertias_.resize(n);
  held_.resize(n);
  place_.resize(set.pieces.size());
  free_ = true;
  for (std::size_t i = 0; i < n; ++i) {
    const std::uint32_t piece = part.pieces[i];
    const HullData& hull = *set.pieces[piece].data;
    centres_[i] = hull.centre;
    masses_[i] = density * set.weight_of(piece);
    inertias_[i] = density * set.densities[piece] * hull.inertia;
    held_[i] = set.anchored[piece];
    free_ = free_ && held_[i] == 0;
    place_[piece] = static_cast<std::uint32_t>(i);
  }
  beams_.clear();
  for (const std::uint32_t b : part.bonds) {
    const SharedFace& face = set.faces[b];
    Beam beam;
    beam.a = place_[face.a];
    beam.b = place_[face.b];
    beam.arm_a = face.point - centres_[beam.a];
    beam.arm_b = face.point - centres_[beam.b];
    beam.normal = face.normal;
    beam.u = face.u;
    beam.v = face.normal.cross(face.u);
    const double length = std::max((centres_[beam.b] - centres_[beam.a]).norm(), 1e-9);
    beam.pull = face.area / length;
    beam.slide = shear_stiffness * face.area / length;
    beam.bend_u = face.moment_u / length;
    beam.bend_v = face.moment_v / length;
    beam.twist = shear_stiffness * face.twist_moment / length;
    beams_.push_back(beam);
  }
  make_blocks();
  make_clusters();
}

// Force and torque at the bond on B, from how B has moved against A there.
BondSolver::Vec6 BondSolver::beam_force(const Beam& beam, const Vec6& of_a, const Vec6& of_b) const {
  const Vec3 turn_a = of_a.tail<3>(), turn_b = of_b.tail<3>();
  const Vec3 apart = of_b.head<3>() + turn_b.cross(beam.arm_b) - of_a.head<3>() - turn_a.cross(beam.arm_a);
  const Vec3 turn = turn_b - turn_a;
  const Vec3 along = beam.normal * beam.normal.dot(apart);
  Vec6 force;
  force.head<3>() = -(beam.pull * along + beam.slide * (apart - along));
  force.tail<3>() = -(beam.bend_u * beam.u.dot(turn) * beam.u + beam.bend_v * beam.v.dot(turn) * beam.v +
                      beam.twist * beam.normal.dot(turn) * beam.normal);
  return force;
}

// y = K x; pieces that are held stay where they are.
void BondSolver::apply(const std::vector<Vec6>& x, std::vector<Vec6>& y) const {
  for (Vec6& each : y) each.setZero();
  for (const Beam& beam : beams_) {
    const Vec6 force = beam_force(beam, x[beam.a], x[beam.b]);
    const Vec3 f = force.head<3>(), t = force.tail<3>();
    y[beam.b].head<3>() -= f;
    y[beam.b].tail<3>() -= t + beam.arm_b.cross(f);
    y[beam.a].head<3>() += f;
    y[beam.a].tail<3>() += t + beam.arm_a.cross(f);
  }
  for (std::size_t i = 0; i < y.size(); ++i)
    if (held_[i] != 0) y[i].setZero();
}

void BondSolver::make_blocks() {
  std::vector<Mat6> sums(centres_.size(), Mat6::Zero());
  for (const Beam& beam : beams_) {
    Mat3 force = beam.slide * Mat3::Identity() + (beam.pull - beam.slide) * beam.normal * beam.normal.transpose();
    Mat3 torque = beam.bend_u * beam.u * beam.u.transpose() + beam.bend_v * beam.v * beam.v.transpose() +
                  beam.twist * beam.normal * beam.normal.transpose();
    for (const auto& [piece, arm] : {std::pair{beam.a, beam.arm_a}, std::pair{beam.b, beam.arm_b}}) {
      const Mat3 cross = cross_matrix(arm);
      Mat6& sum = sums[piece];
      sum.topLeftCorner<3, 3>() += force;
      sum.topRightCorner<3, 3>() -= force * cross;
      sum.bottomLeftCorner<3, 3>() += cross * force;
      sum.bottomRightCorner<3, 3>() += torque - cross * force * cross;
    }
  }
  blocks_.resize(sums.size());
  for (std::size_t i = 0; i < sums.size(); ++i) {
    sums[i].diagonal().array() += 1e-9 * sums[i].trace() + 1e-300;
    blocks_[i] = sums[i].ldlt().solve(Mat6::Identity());
  }
}

// Clusters of neighbours, which the preconditioner moves as rigid wholes.
void BondSolver::make_clusters() {
  const std::size_t n = centres_.size();
  const std::size_t count = std::min(most_clusters, n / cluster_pieces);
  cluster_.assign(n, 0);
  cluster_centres_.assign(count, Vec3::Zero());
  if (count < 2) {
    cluster_centres_.clear();
    return;
  }
  // Seeds as far apart as can be, one after the other; each piece goes to the nearest (Gonzalez, 1985).
  std::vector<double> nearest(n, 1e300);
  std::size_t seed = 0;
  for (std::size_t c = 0; c < count; ++c) {
    std::size_t farthest = 0;
    for (std::size_t i = 0; i < n; ++i) {
      const double squared = (centres_[i] - centres_[seed]).squaredNorm();
      if (squared < nearest[i]) {
        nearest[i] = squared;
        cluster_[i] = static_cast<std::uint32_t>(c);
      }
      if (nearest[i] > nearest[farthest]) farthest = i;
    }
    seed = farthest;
  }
  std::vector<double> members(count, 0);
  for (std::size_t i = 0; i < n; ++i) {
    cluster_centres_[cluster_[i]] += centres_[i];
    members[cluster_[i]] += 1;
  }
  for (std::size_t c = 0; c < count; ++c) cluster_centres_[c] /= std::max(members[c], 1.0);
  const auto size = static_cast<Eigen::Index>(6 * count);
  Eigen::MatrixXd stiffness = Eigen::MatrixXd::Zero(size, size);
  for (const Beam& beam : beams_) {
    const bool held_a = held_[beam.a] != 0, held_b = held_[beam.b] != 0;
    if (cluster_[beam.a] == cluster_[beam.b] && held_a == held_b) continue;
    const Mat3 force = beam.slide * Mat3::Identity() + (beam.pull - beam.slide) * beam.normal * beam.normal.transpose();
    const Mat3 torque = beam.bend_u * beam.u * beam.u.transpose() + beam.bend_v * beam.v * beam.v.transpose() +
                        beam.twist * beam.normal * beam.normal.transpose();
    // How the two ends at the bond move with their clusters: [I −[arm]; 0 I], less for A.
    const auto ends = [&](std::uint32_t piece, const Vec3& arm) {
      Mat6 m = Mat6::Identity();
      m.topRightCorner<3, 3>() = -cross_matrix(centres_[piece] + arm - cluster_centres_[cluster_[piece]]);
      return m;
    };
    Mat6 k = Mat6::Zero();
    k.topLeftCorner<3, 3>() = force;
    k.bottomRightCorner<3, 3>() = torque;
    const Mat6 a = held_a ? Mat6(Mat6::Zero()) : Mat6(-ends(beam.a, beam.arm_a));
    const Mat6 b = held_b ? Mat6(Mat6::Zero()) : ends(beam.b, beam.arm_b);
    const auto ia = 6 * static_cast<Eigen::Index>(cluster_[beam.a]),
               ib = 6 * static_cast<Eigen::Index>(cluster_[beam.b]);
    stiffness.block<6, 6>(ia, ia) += a.transpose() * k * a;
    stiffness.block<6, 6>(ib, ib) += b.transpose() * k * b;
    stiffness.block<6, 6>(ia, ib) += a.transpose() * k * b;
    stiffness.block<6, 6>(ib, ia) += b.transpose() * k * a;
  }
  stiffness.diagonal().array() += 1e-9 * stiffness.trace() / static_cast<double>(size) + 1e-300;
  coarse_.compute(stiffness);
  coarse_r_.resize(size);
}

void BondSolver::precondition(const std::vector<Vec6>& r, std::vector<Vec6>& z) {
  for (std::size_t i = 0; i < r.size(); ++i)
    if (held_[i] != 0)
      z[i].setZero();
    else
      z[i].noalias() = blocks_[i] * r[i];
  if (cluster_centres_.empty()) return;
  coarse_r_.setZero();
  for (std::size_t i = 0; i < r.size(); ++i) {
    if (held_[i] != 0) continue;
    const auto at = 6 * static_cast<Eigen::Index>(cluster_[i]);
    const Vec3 f = r[i].head<3>(), t = r[i].tail<3>();
    coarse_r_.segment<3>(at) += f;
    coarse_r_.segment<3>(at + 3) += t + (centres_[i] - cluster_centres_[cluster_[i]]).cross(f);
  }
  const Eigen::VectorXd moved = coarse_.solve(coarse_r_);
  for (std::size_t i = 0; i < r.size(); ++i) {
    if (held_[i] != 0) continue;
    const auto at = 6 * static_cast<Eigen::Index>(cluster_[i]);
    const Vec3 shift = moved.segment<3>(at), turn = moved.segment<3>(at + 3);
    z[i].head<3>() += shift + turn.cross(centres_[i] - cluster_centres_[cluster_[i]]);
    z[i].tail<3>() += turn;
  }
}

const std::vector<BondLoad>& BondSolver::solve(const std::vector<PieceLoad>& loads, int most_rounds) {
  const std::size_t n = centres_.size();
  f_.assign(n, Vec6::Zero());
  for (const PieceLoad& load : loads) {
    const std::size_t i = place_[load.piece];
    f_[i].head<3>() += load.force;
    f_[i].tail<3>() += load.torque + (load.point - centres_[i]).cross(load.force);
  }
  const auto dot = [&](const std::vector<Vec6>& a, const std::vector<Vec6>& b) {
    double sum = 0;
    for (std::size_t i = 0; i < n; ++i) sum += a[i].dot(b[i]);
    return sum;
  };
  z_.resize(n);
  precondition(f_, z_);
  const double given = dot(f_, z_);
  if (free_) {
    // What is left over moves the whole: F = m a, M = I α.
    double mass = 0;
    Vec3 centre = Vec3::Zero(), force = Vec3::Zero(), torque = Vec3::Zero();
    for (std::size_t i = 0; i < n; ++i) {
      mass += masses_[i];
      centre += masses_[i] * centres_[i];
    }
    centre /= mass;
    Mat3 inertia = Mat3::Zero();
    for (std::size_t i = 0; i < n; ++i) {
      const Vec3 arm = centres_[i] - centre, f = f_[i].head<3>();
      force += f;
      torque += f_[i].tail<3>() + arm.cross(f);
      inertia += inertias_[i] + masses_[i] * (arm.squaredNorm() * Mat3::Identity() - arm * arm.transpose());
    }
    const Vec3 acceleration = force / mass, turning = inertia.inverse() * torque;
    for (std::size_t i = 0; i < n; ++i) {
      f_[i].head<3>() -= masses_[i] * (acceleration + turning.cross(centres_[i] - centre));
      f_[i].tail<3>() -= inertias_[i] * turning;
    }
  } else {
    for (std::size_t i = 0; i < n; ++i)
      if (held_[i] != 0) f_[i].setZero();
  }
  x_.assign(n, Vec6::Zero());
  q_.resize(n);
  r_ = f_;
  precondition(r_, z_);
  p_ = z_;
  double rho = dot(r_, z_);
  const double enough = settled_residual * settled_residual * rho;
  rounds_ = 0;
  // Loads that balance piece by piece leave only rounding: nothing is strained, and steps along it would go anywhere.
  settled_ = !(rho > nothing_left * given);
  while (!settled_ && rounds_ < most_rounds) {
    ++rounds_;
    apply(p_, q_);
    const double curve = dot(p_, q_);
    if (!(curve > 0)) break;
    const double step = rho / curve;
    for (std::size_t i = 0; i < n; ++i) {
      x_[i] += step * p_[i];
      r_[i] -= step * q_[i];
    }
    precondition(r_, z_);
    const double next = dot(r_, z_);
    settled_ = next <= enough;
    const double keep = next / rho;
    for (std::size_t i = 0; i < n; ++i) p_[i] = z_[i] + keep * p_[i];
    rho = next;
  }
  found_.resize(beams_.size());
  for (std::size_t k = 0; k < beams_.size(); ++k) {
    const Beam& beam = beams_[k];
    const Vec6 force = beam_force(beam, x_[beam.a], x_[beam.b]);
    const Vec3 f = force.head<3>(), t = force.tail<3>();
    found_[k].tension = -beam.normal.dot(f);
    found_[k].shear = (f - beam.normal * beam.normal.dot(f)).norm();
    found_[k].moment = {beam.u.dot(t), beam.v.dot(t), beam.normal.dot(t)};
  }
  return found_;
}

double bond_use(const SharedFace& face, const BondLoad& load, const BondStrength& strength, double hit_lasts) {
  if (strength.impulse > 0) return std::hypot(load.tension, load.shear) * hit_lasts / strength.impulse;
  // On B a moment about u presses where v is positive, one about v pulls where u is.
  const double by_u = load.moment.y() / std::max(face.moment_v, 1e-300),
               by_v = -load.moment.x() / std::max(face.moment_u, 1e-300);
  double bending = 0;
  for (const auto& corner : face.corners) bending = std::max(bending, by_u * corner[0] + by_v * corner[1]);
  const double pulled = load.tension / face.area + bending;
  const double sheared = load.shear / face.area + std::abs(load.moment.z()) / std::max(face.twist_modulus, 1e-300);
  return std::max({0.0, pulled / strength.tension, sheared / strength.shear});
}

std::vector<BondedPart> connected_parts(const PieceSet& set, const BondedPart& whole) {
  std::vector<std::uint32_t> root;
  make_sets(root, set.pieces.size());
  for (const std::uint32_t bond : whole.bonds) join_sets(root, set.faces[bond].a, set.faces[bond].b);
  std::optional<std::uint32_t> anchor;
  for (const std::uint32_t piece : whole.pieces)
    if (set.anchored[piece] != 0) {
      if (anchor) join_sets(root, *anchor, piece);
      anchor = piece;
    }
  std::vector<std::uint32_t> number(set.pieces.size(), 0xFFFFFFFFU);
  std::vector<BondedPart> parts;
  for (const std::uint32_t piece : whole.pieces) {
    std::uint32_t& n = number[find_set(root, piece)];
    if (n == 0xFFFFFFFFU) {
      n = static_cast<std::uint32_t>(parts.size());
      parts.emplace_back();
    }
    parts[n].pieces.push_back(piece);
  }
  for (const std::uint32_t bond : whole.bonds) parts[number[find_set(root, set.faces[bond].a)]].bonds.push_back(bond);
  return parts;
}

}  // namespace bronvel
