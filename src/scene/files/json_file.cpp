// Reading values out of JSON, or saying where and why not.
#include "scene/files/json_file.h"

#include <algorithm>

#include "scene/document/json_place.h"
#include "scene/document/names.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

std::string plain_reason(const std::string& what) {
  const auto cut = what.find("syntax error");
  return cut == std::string::npos ? what : what.substr(cut);
}

}  // namespace

std::string got(const Json& json) {
  std::string text = json.dump();
  if (text.size() > 40) text = text.substr(0, 37) + "...";
  return text;
}

Json JsonFile::root() const {
  if (const auto fault = json_text_fault(text_))
    throw Error(name_ + ":" + std::to_string(line_at(fault->byte)), fault->what, fault->remedy);
  try {
    return Json::parse(text_);
  } catch (const Json::parse_error& e) {
    throw Error(name_ + ":" + std::to_string(line_at(e.byte)), "is not JSON: " + plain_reason(e.what()),
                "NaN, comments and trailing commas are not JSON either");
  } catch (const Json::out_of_range&) {
    throw Error(name_, "has a number that is too large to read");
  }
}

int JsonFile::line_at(std::size_t byte) const {
  return 1 + static_cast<int>(std::count(
                 text_.begin(), text_.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text_.size())), '\n'));
}

void JsonFile::fail(const std::string& place, const std::string& what, const std::string& remedy) const {
  std::string where = name_ + ":" + std::to_string(line_of(text_, place));
  if (!place.empty()) where += ": " + readable_place(place);
  if (!thing_.empty()) where += " (" + thing_ + ")";
  throw PlacedError(where, what, remedy);
}

const Json& JsonFile::object(const Json& json, const std::string& place) const {
  if (!json.is_object()) fail(place, "wants an object { … }, got " + got(json));
  return json;
}

void JsonFile::only(const Json& json, const std::string& place, const std::vector<std::string>& known) const {
  for (const auto& [key, value] : object(json, place).items()) {
    if (std::find(known.begin(), known.end(), key) != known.end()) continue;
    if (const std::string near = nearest_name(key, known); !near.empty())
      fail(place + "/" + key, "is not a name known here", "did you mean \"" + near + "\"?");
    std::string list;
    for (const std::string& k : known) list += (list.empty() ? "" : ", ") + k;
    fail(place + "/" + key, "is not a name known here", "known: " + list);
  }
}

std::string JsonFile::string(const Json& json, const std::string& place, const char* key,
                             const std::string& otherwise) const {
  if (!json.contains(key)) return otherwise;
  if (!json[key].is_string()) fail(place + "/" + key, "wants a text in quotes, got " + got(json[key]));
  return json[key].get<std::string>();
}

double JsonFile::number(const Json& json, const std::string& place, const char* key, double otherwise, double low,
                        double high, bool low_open) const {
  if (!json.contains(key)) return otherwise;
  const std::string here = place + "/" + key;
  Property range;
  range.low = low;
  range.high = high;
  range.low_open = low_open;
  const Value value = json[key].is_number() ? Value(json[key].get<double>()) : Value();
  const std::string fault = value_fault(range, value);
  if (!fault.empty()) fail(here, json[key].is_number() ? fault : "wants a number, got " + got(json[key]));
  return json[key].get<double>();
}

double JsonFile::length(const Json& json, const std::string& place, const char* key) const {
  if (!json.contains(key)) fail(place, std::string("has no ") + key);
  return number(json, place, key, 1, 0, 1e6, true);
}

bool JsonFile::flag(const Json& json, const std::string& place, const char* key, bool otherwise) const {
  if (!json.contains(key)) return otherwise;
  if (!json[key].is_boolean()) fail(place + "/" + key, "wants true or false, got " + got(json[key]));
  return json[key].get<bool>();
}

Vec3 JsonFile::vector(const Json& json, const std::string& place, const char* key, const Vec3& otherwise) const {
  if (!json.contains(key)) return otherwise;
  const auto n = numbers(json[key], place + "/" + key, 3);
  return {n[0], n[1], n[2]};
}

std::vector<std::string> JsonFile::name_list(const Json& json, const std::string& place, const char* key) const {
  const Json& list = json[key];
  const bool good =
      list.is_array() && std::all_of(list.begin(), list.end(), [](const Json& j) { return j.is_string(); });
  if (!good) fail(place + "/" + key, "wants a list of names, got " + got(list));
  return list.get<std::vector<std::string>>();
}

std::vector<Vec3> JsonFile::points(const Json& json, const std::string& place) const {
  if (!json.contains("points") || !json["points"].is_array()) fail(place, "wants a list of points");
  std::vector<Vec3> all;
  for (std::size_t i = 0; i < json["points"].size(); ++i) {
    const auto n = numbers(json["points"][i], place + "/points/" + std::to_string(i), 3);
    all.emplace_back(n[0], n[1], n[2]);
  }
  return all;
}

std::string JsonFile::name_of(const Json& json, const std::string& place) const {
  if (!json.contains("name")) fail(place, "has no name");
  const std::string name = string(json, place, "name", "");
  if (const std::string fault = name_fault(name); !fault.empty()) fail(place + "/name", fault);
  return name;
}

std::vector<double> JsonFile::numbers(const Json& json, const std::string& place, std::size_t count) const {
  const bool good = json.is_array() && json.size() == count &&
                    std::all_of(json.begin(), json.end(), [](const Json& j) { return j.is_number(); });
  if (!good) fail(place, "wants " + std::to_string(count) + " numbers [ … ], got " + got(json));
  return json.get<std::vector<double>>();
}

std::uint32_t JsonFile::whole(const Json& json, const std::string& place, double most) const {
  const bool good = json.is_number() && json.get<double>() >= 0 && json.get<double>() <= most &&
                    json.get<double>() == std::floor(json.get<double>());
  if (!good) fail(place, "wants a whole number from 0 to " + number_text(most) + ", got " + got(json));
  return json.get<std::uint32_t>();
}

Quat JsonFile::rotation(const Json& json, const std::string& place) const {
  const auto n = numbers(json, place, 4);
  return {n[3], n[0], n[1], n[2]};
}

}  // namespace bronvel
