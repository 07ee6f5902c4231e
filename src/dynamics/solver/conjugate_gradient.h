// Steps of nonlinear conjugate gradients between the iterations over contacts, for scenes in which some body bears far
// more than it weighs. Only the contact solver includes this.
//
// Each iteration is a projected step down; what the last ones went together is added to it, and taken anew where that
// leads nowhere (Silcowitz, Niebe and Erleben, A Nonsmooth Nonlinear Conjugate Gradient Method for Interactive Contact
// Force Problems, 2010). What is added to the impulses is added to the motions that they make, so that both stay what
// they were to each other.
#pragma once

#include "dynamics/base/thread_pool.h"
#include "dynamics/solver/contact_system.h"

namespace bronvel {

/// Calls f(place, impulse, mass) for each eight impulses of a block.
template <class F>
void each_impulse(ContactBlock<double>& block, FlatArray<BlockRoll<double>>& rolls, const F& f) {
  for (std::size_t i = 0; i < 4; ++i) f(i, block.points[i].impulse, block.points[i].mass);
  for (std::size_t t = 0; t < 2; ++t) f(4 + t, block.slide[t], block.slide_mass[t]);
  f(6, block.twist, block.twist_mass);
  if (block.roll < 0) return;
  BlockRoll<double>& roll = rolls[static_cast<std::size_t>(block.roll)];
  for (std::size_t t = 0; t < 2; ++t) f(7 + t, roll.impulse[t], roll.mass[t]);
}

/// The steps of one worker: its blocks and its part of the bodies.
struct ConjugateWorker {
  WorldState& state;
  ConjugateSteps& steps;
  ContactPart<double>& all;
  int worker;
  ThreadPool::Share bodies;
  double last_energy = 0;  // 0: no way yet
  double farthest = 0;     // that the last step changed a speed of the worker's bodies

  template <class F>
  void each_block(const F& f) const {
    for (const Colour& colour : all.colours) {
      const ThreadPool::Share part = state.scratch.thread_pool->share(colour.lively, worker);
      for (std::size_t b = colour.first + part.first; b < colour.first + part.last; ++b) f(b);
    }
  }
  template <class F>
  void each_body(const F& f) const {
    for (std::size_t k = bodies.first; k < bodies.last; ++k) {
      const std::size_t i = all.bodies[k];
      if (state.scratch.moving[i] != 0 && state.records[i].dynamic()) f(i);
    }
  }
  static double& number_of(BodyMotionLane<double>& lane, std::size_t k) {
    return k < 3 ? lane.velocity[k] : lane.spin[k - 3];
  }

  // Before the iteration from which on steps are made.
  void begin() const {
    each_block([&](std::size_t b) {
      each_impulse(all.blocks[b], all.rolls,
                   [&](std::size_t k, const Lanes8<double>& impulse, const auto&) { steps.impulses[b][k] = impulse; });
    });
    each_body([&](std::size_t i) {
      for (std::size_t k = 0; k < 6; ++k) steps.motions[i][k] = number_of(all.motions[i], k);
    });
  }

  // After an iteration that is not the last.
  void go_on() {
    ThreadPool& thread_pool = *state.scratch.thread_pool;
    each_block([&](std::size_t b) {
      double energy = 0;
      each_impulse(all.blocks[b], all.rolls,
                   [&](std::size_t k, const Lanes8<double>& impulse, const Lanes8<double>& mass) {
                     for (std::size_t lane = 0; lane < lanes; ++lane) {
                       const double change = impulse[lane] - steps.impulses[b][k][lane];
                       if (mass[lane] > 0) energy += change * change / mass[lane];
                     }
                   });
      steps.energies[b] = energy;
    });
    thread_pool.wait();
    // All workers add in the same order.
    double energy = 0;
    for (const Colour& colour : all.colours)
      for (std::size_t b = colour.first; b < colour.first + colour.lively; ++b) energy += steps.energies[b];
    const double on = last_energy > 0 ? energy / last_energy : 0;
    const double share = on <= 1 ? on : 0;
    last_energy = energy;
    each_block([&](std::size_t b) {
      each_impulse(all.blocks[b], all.rolls, [&](std::size_t k, Lanes8<double>& impulse, const auto&) {
        Lanes8<double>&before = steps.impulses[b][k], &way = steps.impulse_way[b][k];
        for (std::size_t lane = 0; lane < lanes; ++lane) {
          const double change = impulse[lane] - before[lane], further = share > 0 ? share * way[lane] : 0;
          before[lane] = impulse[lane] += further;
          way[lane] = further + change;
        }
      });
    });
    farthest = 0;
    each_body([&](std::size_t i) {
      for (std::size_t k = 0; k < 6; ++k) {
        double &now = number_of(all.motions[i], k), &before = steps.motions[i][k], &way = steps.motion_way[i][k];
        const double change = now - before, further = share > 0 ? share * way : 0;
        before = now += further;
        way = further + change;
        if (k < 3) farthest = std::max(farthest, std::abs(way));
      }
    });
    thread_pool.wait();
  }
};

}  // namespace bronvel
