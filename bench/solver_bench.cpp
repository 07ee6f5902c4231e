// The contact solver's passes against the floor kernel: nanoseconds a contact and pass, in one run.
#include <benchmark/benchmark.h>

#include "dynamics/solver/contact_kernel.h"
#include "floor_kernel.h"

using namespace bronvel;

namespace {

// Bodies of contact i, scattered as in a pile of three contacts a body; no two of eight in a row share one.
std::int32_t body_of(std::size_t contact, std::size_t end, std::size_t bodies) {
  return static_cast<std::int32_t>((contact * 2 + end) * 2654435761ULL % bodies);
}

std::size_t bodies_for(std::size_t contacts) {
  return contacts / 3 + 17;
}

void rate(benchmark::State& state, std::size_t contacts) {
  state.counters["ns_a_contact"] =
      benchmark::Counter(static_cast<double>(contacts) * static_cast<double>(state.iterations()) * 1e-9,
                         benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

void floor_kernel(benchmark::State& state) {
  const auto contacts = static_cast<std::size_t>(state.range(0));
  std::vector<bench::FloorBody> bodies(bodies_for(contacts));
  std::vector<bench::FloorBlock> blocks(contacts / 8);
  for (std::size_t i = 0; i < contacts; ++i) {
    bench::FloorBlock& block = blocks[i / 8];
    const std::size_t lane = i % 8;
    block.a[lane] = body_of(i, 0, bodies.size());
    block.b[lane] = body_of(i, 1, bodies.size());
    block.friction[lane] = 0.5F;
    block.bias[lane] = 0.01F;
    for (std::size_t row = 0; row < 3; ++row) {
      block.mass[row][lane] = 0.3F;
      for (std::size_t k = 0; k < 3; ++k) {
        block.along[row][k][lane] = row == k ? 1 : 0;
        block.turn_a[row][k][lane] = block.turn_b[row][k][lane] = 0.2F;
        block.spin_a[row][k][lane] = block.spin_b[row][k][lane] = 0.1F;
      }
    }
  }
  for (auto _ : state) {
    bench::floor_pass(blocks, bodies, 0.5F);
    benchmark::ClobberMemory();
  }
  rate(state, contacts);
}
BENCHMARK(floor_kernel)->Arg(4000)->Arg(32000)->Arg(128000);

// The engine's own pass over as many contacts of one point: a normal, two frictions and the twist.
void engine_pass(benchmark::State& state) {
  const auto contacts = static_cast<std::size_t>(state.range(0));
  const std::size_t bodies = bodies_for(contacts);
  std::vector<BodyMotionLane<float>> motions(bodies);
  std::vector<BodyFrameLane<float>> frames(bodies);
  for (BodyFrameLane<float>& frame : frames) {
    frame.inverse_mass = {0.5F, 0.5F, 0.5F};
    frame.inverse_inertia = {1, 1, 1, 0, 0, 0};
  }
  std::vector<ContactBlock<float>> blocks(contacts / 8);
  for (std::size_t i = 0; i < contacts; ++i) {
    ContactBlock<float>& block = blocks[i / 8];
    const std::size_t lane = i % 8;
    block.count = 1;
    block.a[lane] = body_of(i, 0, bodies);
    block.b[lane] = body_of(i, 1, bodies);
    block.moves_a[lane] = block.moves_b[lane] = 1;
    block.active[lane] = 1;
    block.normal[1][lane] = 1;
    block.tangent[0][lane] = 1;
    block.static_friction[lane] = block.dynamic_friction[lane] = 0.5F;
    for (std::size_t k = 0; k < 3; ++k) {
      block.points[0].arm_a[k][lane] = block.arm_a[k][lane] = 0.2F;
      block.points[0].arm_b[k][lane] = block.arm_b[k][lane] = -0.2F;
    }
    block.points[0].gap[lane] = block.points[0].gap_now[lane] = -0.001F;
  }
  kernel_iterations<float>().prepare(blocks.data(), blocks.size(), nullptr, motions.data(), frames.data());
  IterationNumbers<float> numbers;
  numbers.step = 1.0F / 240;
  numbers.baumgarte_rate = 9;
  numbers.recovery_speed = 3;
  numbers.push_out = true;
  std::vector<std::int32_t> stirred(motions.size(), 0);
  for (auto _ : state) {
    kernel_iterations<float>().solve(blocks.data(), blocks.size(), nullptr, motions.data(), frames.data(), numbers,
                                     stirred.data());
    benchmark::ClobberMemory();
  }
  rate(state, contacts);
}
BENCHMARK(engine_pass)->Arg(4000)->Arg(32000)->Arg(128000);

}  // namespace

BENCHMARK_MAIN();
