// Inputs as text.
#include "play/inputs/input.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/document/json_place.h"
#include "scene/files/json_text.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

constexpr std::array<const char*, 3> falloffs{"even", "linear", "square"};

Json vector(const Vec3& v) {
  return {v.x(), v.y(), v.z()};
}

Json text_of(const Input& input) {
  Json json{{"tick", input.tick}};
  switch (input.kind) {
    case Input::Kind::action:
      json["action"] = input.name;
      json["value"] = input.value;
      break;
    case Input::Kind::grab:
      json["grab"] = input.name;
      json["at"] = vector(input.point);
      json["most"] = input.value;
      if (input.holding == Holding::locked) json["turning"] = "locked";
      break;
    case Input::Kind::carry:
      json["carry"] = vector(input.point);
      break;
    case Input::Kind::drop:
      json["drop"] = true;
      break;
    case Input::Kind::flick:
      json["flick"] = input.name;
      json["at"] = vector(input.point);
      json["impulse"] = vector(input.vector);
      break;
    case Input::Kind::blast:
      json["blast"] = vector(input.blast.at);
      json["radius"] = input.blast.radius;
      json["impulse"] = input.blast.impulse;
      json["falloff"] = falloffs.at(static_cast<std::size_t>(input.blast.falloff));
      json["upward"] = input.blast.upward;
      if (input.blast.lift != 0) json["lift"] = input.blast.lift;
      break;
    case Input::Kind::point:
      json["eye"] = vector(input.point);
      json["way"] = vector(input.vector);
      break;
    case Input::Kind::cut:
      json["cut"] = input.name;
      json["at"] = vector(input.point);
      json["normal"] = vector(input.vector);
      break;
    case Input::Kind::set:
      json["set"] = input.name;
      break;
    case Input::Kind::script:
      json["script"] = input.name;
      json["text"] = input.text;
      break;
  }
  return json;
}

// Reads one line; every fault says what was wanted.
class LineReader {
 public:
  explicit LineReader(const Json& json) : json_(json) {
    if (!json.is_object()) fail("wants an object { … }");
  }

  Input input(double tick_rate) const {
    Input in;
    if (json_.contains("time")) {
      const double time = number("time", 0);
      if (time < 0 || time > 1e9) fail("wants a \"time\" from 0 s");
      in.tick = std::llround(time * tick_rate);
    } else {
      const double tick = number("tick", -1);
      if (tick < 0 || tick != std::floor(tick) || tick > 1e15)
        fail("wants a \"tick\" that is a whole number from 0, or a \"time\" in s");
      in.tick = static_cast<std::int64_t>(tick);
    }
    only_known();
    if (json_.contains("action")) {
      in.kind = Input::Kind::action;
      in.name = text("action");
      in.value = number("value", 1);
      if (in.value < -1 || in.value > 1) fail("wants a \"value\" from -1 to 1");
    } else if (json_.contains("grab")) {
      in.kind = Input::Kind::grab;
      in.name = text("grab");
      if (json_.contains("at")) in.point = vector("at");
      in.value = number("most", 500);
      if (in.value < 0) fail("wants a \"most\" of 0 N or more");
      if (json_.contains("turning")) {
        const std::string turning = text("turning");
        if (turning != "locked" && turning != "free") fail("wants a \"turning\" of locked or free");
        in.holding = turning == "locked" ? Holding::locked : Holding::free;
      }
    } else if (json_.contains("carry")) {
      in.kind = Input::Kind::carry;
      in.point = vector("carry");
    } else if (json_.contains("drop")) {
      in.kind = Input::Kind::drop;
    } else if (json_.contains("flick")) {
      in.kind = Input::Kind::flick;
      in.name = text("flick");
      in.point = vector("at");
      in.vector = vector("impulse");
    } else if (json_.contains("blast")) {
      in.kind = Input::Kind::blast;
      in.blast.at = vector("blast");
      in.blast.radius = number("radius", in.blast.radius);
      in.blast.impulse = number("impulse", in.blast.impulse);
      in.blast.upward = number("upward", 0);
      in.blast.lift = number("lift", 0);
      if (json_.contains("falloff")) {
        const auto found = std::find(falloffs.begin(), falloffs.end(), text("falloff"));
        if (found == falloffs.end()) fail("wants a \"falloff\" of even, linear or square");
        in.blast.falloff = static_cast<Falloff>(found - falloffs.begin());
      }
    } else if (json_.contains("eye")) {
      in.kind = Input::Kind::point;
      in.point = vector("eye");
      in.vector = vector("way");
    } else if (json_.contains("cut")) {
      in.kind = Input::Kind::cut;
      in.name = text("cut");
      in.point = vector("at");
      in.vector = vector("normal");
    } else if (json_.contains("script")) {
      in.kind = Input::Kind::script;
      in.name = text("script");
      in.text = text("text");
    } else {
      in.kind = Input::Kind::set;
      in.name = text("set");
    }
    return in;
  }

 private:
  // One kind, and nothing that would be passed over.
  void only_known() const {
    static const std::map<std::string, std::vector<std::string>> fields{
        {"action", {"value"}},
        {"grab", {"at", "most", "turning"}},
        {"carry", {}},
        {"drop", {}},
        {"flick", {"at", "impulse"}},
        {"blast", {"radius", "impulse", "falloff", "upward", "lift"}},
        {"eye", {"way"}},
        {"cut", {"at", "normal"}},
        {"set", {}},
        {"script", {"text"}}};
    std::string kind;
    for (const auto& [key, value] : json_.items()) {
      if (!fields.contains(key)) continue;
      if (!kind.empty()) fail("is two inputs in one, " + kind + " and " + key + "; give each a line");
      kind = key;
    }
    if (kind.empty()) fail("wants one of action, grab, carry, drop, flick, blast, eye, cut, set, script");
    const std::vector<std::string>& known = fields.at(kind);
    for (const auto& [key, value] : json_.items()) {
      if (key == "tick" || key == "time" || key == kind || std::find(known.begin(), known.end(), key) != known.end())
        continue;
      std::string all = "tick, time, " + kind;
      for (const std::string& each : known) all.append(", ").append(each);
      fail("has no \"" + key + "\"; it has " + all);
    }
  }
  [[noreturn]] static void fail(const std::string& what) { throw Error("", what); }
  std::string text(const char* key) const {
    if (!json_.contains(key) || !json_[key].is_string()) fail("wants a text for \"" + std::string(key) + "\"");
    return json_[key].get<std::string>();
  }
  double number(const char* key, double otherwise) const {
    if (!json_.contains(key)) return otherwise;
    if (!json_[key].is_number() || !std::isfinite(json_[key].get<double>()))
      fail("wants a number for \"" + std::string(key) + "\"");
    return json_[key].get<double>();
  }
  Vec3 vector(const char* key) const {
    const bool good = json_.contains(key) && json_[key].is_array() && json_[key].size() == 3 &&
                      json_[key][0].is_number() && json_[key][1].is_number() && json_[key][2].is_number();
    if (!good) fail("wants three numbers for \"" + std::string(key) + "\"");
    return {json_[key][0].get<double>(), json_[key][1].get<double>(), json_[key][2].get<double>()};
  }

  const Json& json_;
};

}  // namespace

std::string inputs_text(const std::vector<Input>& inputs) {
  std::string text;
  for (const Input& input : inputs) text += text_of(input).dump() + "\n";
  return text;
}

std::int64_t tick_at_rate(std::int64_t tick, double from_rate, double to_rate) {
  return from_rate == to_rate ? tick : std::llround(static_cast<double>(tick) / from_rate * to_rate);
}

std::vector<Input> inputs_at_rate(std::vector<Input> inputs, double from_rate, double to_rate) {
  for (Input& input : inputs) input.tick = tick_at_rate(input.tick, from_rate, to_rate);
  return inputs;
}

std::vector<Input> read_inputs(const std::string& text, const std::string& file, double tick_rate) {
  std::vector<Input> inputs;
  std::istringstream lines(text);
  int number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    if (line.find_first_not_of(" \t\r") == std::string::npos) continue;
    const std::string place = file + ":" + std::to_string(number);
    try {
      if (const auto fault = json_text_fault(line)) throw Error("", fault->what, fault->remedy);
      const Json json = Json::parse(line);
      inputs.push_back(LineReader(json).input(tick_rate));
    } catch (const Json::exception&) {
      throw Error(place, "is not a line of JSON",
                  "one input a line, such as {\"tick\": 12, \"action\": \"haul\", \"value\": 1}");
    } catch (const Error& e) {
      throw Error(place, e.what());
    }
    if (inputs.size() > 1 && inputs[inputs.size() - 2].tick > inputs.back().tick)
      throw Error(place, "comes before the line above it", "inputs are in the order of their ticks");
  }
  return inputs;
}

}  // namespace bronvel
