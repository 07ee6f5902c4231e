// Sine, cosine and the exponential function.
#include "geometry/base/angles.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/exponential.h"

using namespace bronvel;

TEST_CASE("sine and cosine agree with the library's", "[random]") {
  double worst = 0;
  for (int i = -200000; i <= 200000; ++i) {
    const double angle = 0.000731 * i;
    const SineCosine got = sine_cosine(angle);
    worst = std::max({worst, std::abs(got.sine - std::sin(angle)), std::abs(got.cosine - std::cos(angle))});
  }
  INFO("worst " << worst);
  CHECK(worst < 4e-16);
  // Against more digits, where the whole turns taken off cost some.
  for (const double range : {1e2, 1e5, 1e7}) {
    long double most = 0;
    for (int i = -100000; i <= 100000; ++i) {
      const double angle = range * (i + 0.2718) / 100000;
      const SineCosine got = sine_cosine(angle);
      most = std::max({most, std::abs(static_cast<long double>(got.sine) - std::sin(static_cast<long double>(angle))),
                       std::abs(static_cast<long double>(got.cosine) - std::cos(static_cast<long double>(angle)))});
    }
    INFO("up to " << range << " rad: " << static_cast<double>(most));
    CHECK(most < 2e-16L);
  }
  for (const double large : {1e5, -7e7}) {
    CHECK(std::abs(sine_cosine(large).sine - std::sin(large)) < 1e-8);
    CHECK(std::abs(sine_cosine(large).cosine - std::cos(large)) < 1e-8);
  }
  CHECK(std::abs(sine_cosine(3e12).sine - std::sin(3e12)) < 1e-3);
  CHECK(sine_cosine(0).sine == 0);
  CHECK(sine_cosine(0).cosine == 1);
  CHECK(std::isfinite(sine_cosine(INFINITY).sine));
  CHECK(rc::check("a point on the unit circle", [](double angle) {
    const SineCosine got = sine_cosine(angle);
    RC_ASSERT(std::abs(got.sine * got.sine + got.cosine * got.cosine - 1) < 1e-14);
  }));
}

TEST_CASE("the exponential function agrees with more digits") {
  long double worst = 0;
  for (int i = -200000; i <= 200000; ++i) {
    const double x = 0.00345 * i;
    const long double right = std::exp(static_cast<long double>(x));
    worst = std::max(worst, std::abs(static_cast<long double>(exponential(x)) - right) / right);
  }
  INFO("worst " << static_cast<double>(worst));
  CHECK(worst < 5e-16L);
  CHECK(exponential(0) == 1);
  CHECK(exponential(-1e9) == 0);
  CHECK(exponential(-INFINITY) == 0);
  CHECK(std::isfinite(exponential(1e300)));
  CHECK(std::isnan(exponential(NAN)));
}
