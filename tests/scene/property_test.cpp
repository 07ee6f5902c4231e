// Every property of the list: what it takes it gives back, as a value and as text; what does not fit is told.
#include "scene/properties/property.h"

#include <catch2/catch.hpp>
#include <limits>
#include <set>

#include "geometry/base/error.h"

using namespace bronvel;

namespace {

// Values that the property says it takes: the ends of its range, and some between.
std::vector<Value> good_values(const PropertyInfo& p) {
  const double low = p.low_open ? p.low + 1e-3 : std::max(p.low, -1e6), high = std::min(p.high, 1e6);
  const double between = 0.5 * (low + high);
  std::vector<Value> all;
  switch (p.kind) {
    case PropertyKind::optional_number:
      all.emplace_back(std::monostate{});
      [[fallthrough]];
    case PropertyKind::number:
      for (const double x : {low, between, high, low + (high - low) / 3}) all.emplace_back(x);
      break;
    case PropertyKind::flag:
      all = {true, false};
      break;
    case PropertyKind::word:
      for (const std::string& word : p.words) all.emplace_back(word);
      break;
    case PropertyKind::text:
      all = {std::string("oak"), std::string("")};
      break;
    case PropertyKind::optional_vector:
      all.emplace_back(std::monostate{});
      [[fallthrough]];
    case PropertyKind::vector:
      all.emplace_back(Vec3(low, between, high));
      break;
    case PropertyKind::rotation:
      all.emplace_back(Quat(0.5, -0.5, 0.5, -0.5));
      break;
  }
  return all;
}

std::vector<Value> bad_values(const PropertyInfo& p) {
  constexpr double inf = std::numeric_limits<double>::infinity();
  std::vector<Value> all;
  const bool number = p.kind == PropertyKind::number || p.kind == PropertyKind::optional_number;
  const bool vector = p.kind == PropertyKind::vector || p.kind == PropertyKind::optional_vector;
  if (number)
    for (const double x : {inf, -inf, std::nan("")}) all.emplace_back(x);
  if (number && p.low > -1e299) all.emplace_back(p.low_open ? p.low : p.low - 1e-6 * (1 + std::abs(p.low)));
  if (number && p.high < 1e299) all.emplace_back(p.high + 1e-6 * (1 + std::abs(p.high)));
  if (vector) all.emplace_back(Vec3(0, inf, 0));
  if (vector && p.low > -1e299) all.emplace_back(Vec3(p.low - 1e-6 * (1 + std::abs(p.low)), 0, 0));
  if (p.kind == PropertyKind::word) all.emplace_back(std::string("no such word"));
  if (p.kind == PropertyKind::rotation) all.emplace_back(Quat(1, 1, 0, 0));
  // Of another kind.
  if (!number) all.emplace_back(1.0);
  if (p.kind != PropertyKind::flag) all.emplace_back(true);
  if (p.kind != PropertyKind::word && p.kind != PropertyKind::text) all.emplace_back(std::string("oak"));
  if (!vector) all.emplace_back(Vec3(1, 2, 3));
  if (p.kind != PropertyKind::optional_number && p.kind != PropertyKind::optional_vector)
    all.emplace_back(std::monostate{});
  return all;
}

template <class Owner>
void check_list(std::span<const PropertyOf<Owner>> list) {
  std::set<std::string> names;
  for (const PropertyOf<Owner>& p : list) {
    INFO(p.name);
    CHECK(names.insert(p.name).second);
    CHECK_FALSE(p.label.empty());
    CHECK_FALSE(p.group.empty());
    CHECK_FALSE(p.tip.empty());
    Owner owner;
    // What it is to begin with fits.
    if (p.kind != PropertyKind::word || p.name != "kind") CHECK(value_fault(p, p.get(owner)).empty());
    for (const Value& value : good_values(p)) {
      INFO(value_text(value));
      CHECK(value_fault(p, value).empty());
      p.set(owner, value);
      CHECK(same_value(p.get(owner), value));
      // As text and back: to the last bit.
      const Value back = value_from_text(p, assignable_text(value), "here");
      CHECK(same_value(back, value));
    }
    for (const Value& value : bad_values(p)) {
      INFO(value_text(value));
      const std::string fault = value_fault(p, value);
      CHECK_THAT(fault, Catch::StartsWith("wants "));
      CHECK_THAT(fault, Catch::Contains(", got "));
    }
  }
}

}  // namespace

TEST_CASE("each property of a body gives back what it takes") {
  check_list(body_properties());
}

TEST_CASE("each property of a joint gives back what it takes") {
  check_list(joint_properties());
}

TEST_CASE("each property of a zone gives back what it takes") {
  check_list(zone_properties());
}

TEST_CASE("setting one property leaves the others as they were") {
  for (const Property& p : body_properties()) {
    Body body;
    for (const Value& value : good_values(p)) {
      Body changed;
      p.set(changed, value);
      for (const Property& other : body_properties()) {
        if (other.name == p.name) continue;
        INFO(p.name << " and " << other.name);
        CHECK(same_value(other.get(changed), other.get(body)));
      }
    }
  }
}

TEST_CASE("properties are found by name") {
  CHECK(find_property("mass") != nullptr);
  CHECK(find_property("Mass") == nullptr);
  CHECK(find_property("") == nullptr);
  CHECK(find_zone_property("density") != nullptr);
  CHECK(find_zone_property("mass") == nullptr);
}

TEST_CASE("text that is no value is refused, with its place") {
  const Property& mass = *find_property("mass");
  const Property& position = *find_property("position");
  const Property& kind = *find_property("kind");
  const Property& solid = *find_property("solid");
  for (const char* text : {"", "x", "1,", "1,2", "1 2", "0x10", "1e999", "nan", "inf", "1,2,3,4,5", "1--", "1.5.2"}) {
    INFO(text);
    CHECK_THROWS_WITH(value_from_text(mass, text, "cask.mass"), Catch::StartsWith("cask.mass"));
  }
  for (const char* text : {"1,2", "1,2,x", "none", "1e7,0,0"})
    CHECK_THROWS_AS(value_from_text(position, text, "cask.position"), Error);
  CHECK_THROWS_WITH(value_from_text(kind, "floating", "cask.kind"), Catch::Contains("static, kinematic, dynamic"));
  CHECK_THROWS_AS(value_from_text(solid, "yes", "cask.solid"), Error);
  CHECK_THROWS_AS(value_from_text(solid, "1", "cask.solid"), Error);
  CHECK(std::get<double>(value_from_text(mass, "2.5e-3", "")) == 2.5e-3);
  CHECK(std::get<Vec3>(value_from_text(position, "-0,1e-300,6", "")).z() == 6);
  CHECK(std::holds_alternative<std::monostate>(value_from_text(*find_property("friction"), "none", "")));
}

TEST_CASE("values as people read them") {
  CHECK(value_text(Value()) == "nothing");
  CHECK(value_text(Value(0.1)) == "0.1");
  CHECK(value_text(Value(true)) == "true");
  CHECK(value_text(Value(std::string("oak"))) == "\"oak\"");
  CHECK(value_text(Value(Vec3(1, -2, 0.5))) == "(1, -2, 0.5)");
  CHECK(assignable_text(Value(Vec3(1, -2, 0.5))) == "1,-2,0.5");
  CHECK(assignable_text(Value()) == "none");
  CHECK_FALSE(same_value(Value(1.0), Value(true)));
  CHECK_FALSE(same_value(Value(), Value(0.0)));
  for (const double x : {0.1, 1.0 / 3, 1e-300, 123456789.123456789, 5e-324, -0.0})
    CHECK(std::strtod(number_text(x).c_str(), nullptr) == x);
}

TEST_CASE("each kind of motion has its word, and the list knows no other") {
  CHECK(kind_word(MotionKind::fixed) == "static");
  CHECK(kind_word(MotionKind::kinematic) == "kinematic");
  CHECK(kind_word(MotionKind::dynamic) == "dynamic");
  const Property& kind = *find_property("kind");
  CHECK(kind.words.size() == 3);
  for (const MotionKind each : {MotionKind::fixed, MotionKind::kinematic, MotionKind::dynamic}) {
    Body body;
    kind.set(body, Value(kind_word(each)));
    CHECK(body.kind == each);
  }
}
