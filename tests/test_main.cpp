// The main function of every core test program.
#define CATCH_CONFIG_RUNNER
#include <sys/resource.h>

#include <catch2/catch.hpp>
#include <cstdio>
#include <cstdlib>

namespace {

// Nothing that a test tries, hostile or not, may take more memory than this. Sanitizers take their own on top.
bool within_memory() {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
  return true;
#else
  constexpr long most = 1L << 20;  // KiB: 1 GiB
  rusage used{};
  getrusage(RUSAGE_SELF, &used);
  if (used.ru_maxrss <= most) return true;
  std::printf("FAULT: these tests took %ld MiB at once, more than 1 GiB\n", used.ru_maxrss / 1024);
  return false;
#endif
}

}  // namespace

int main(int argc, char** argv) {
  // The same cases on every run, so that what a run finds is what was changed; tools/hunt looks for more.
  setenv("RC_PARAMS", "seed=20", 0);
  const int failed = Catch::Session().run(argc, argv);
  return failed == 0 && !within_memory() ? 1 : failed;
}
