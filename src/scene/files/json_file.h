// A JSON file that is being read: its values, each with the place that a message names when it does not fit.
#pragma once

#include <string>
#include <vector>

#include "geometry/base/error.h"
#include "geometry/base/vector.h"
#include "scene/files/json_text.h"

namespace bronvel {

/// An error that already says where in the file.
class PlacedError : public Error {
  using Error::Error;
};

/// Values of a file. Places are JSON pointers ("/bodies/2"); what is asked for by `key` lies in the object `json` at
/// `place`. All throw PlacedError when the value does not fit. The text must live as long as this.
class JsonFile {
 public:
  JsonFile(const std::string& text, std::string name) : text_(text), name_(std::move(name)) {}

  Json root() const;  ///< the whole file; throws Error when it is not JSON
  /// The thing that messages from now on are about; "": none.
  void speak_of(const std::string& thing) { thing_ = thing; }
  [[noreturn]] void fail(const std::string& place, const std::string& what, const std::string& remedy = "") const;

  const Json& object(const Json& json, const std::string& place) const;
  void only(const Json& json, const std::string& place,
            const std::vector<std::string>& known) const;  ///< no other keys
  std::string string(const Json& json, const std::string& place, const char* key, const std::string& otherwise) const;
  double number(const Json& json, const std::string& place, const char* key, double otherwise, double low, double high,
                bool low_open = false) const;
  double length(const Json& json, const std::string& place, const char* key) const;  ///< that must be there, m
  bool flag(const Json& json, const std::string& place, const char* key, bool otherwise) const;
  Vec3 vector(const Json& json, const std::string& place, const char* key, const Vec3& otherwise) const;
  std::vector<std::string> name_list(const Json& json, const std::string& place, const char* key) const;
  std::vector<Vec3> points(const Json& json, const std::string& place) const;  ///< of the key "points"
  std::string name_of(const Json& json, const std::string& place) const;       ///< of the key "name", fit for a thing

  // The value `json` itself, which lies at `place`.
  std::vector<double> numbers(const Json& json, const std::string& place, std::size_t count) const;
  Quat rotation(const Json& json, const std::string& place) const;  ///< x, y, z, w
  std::uint32_t whole(const Json& json, const std::string& place, double most) const;

 private:
  int line_at(std::size_t byte) const;

  const std::string& text_;
  std::string name_;
  std::string thing_{};
};

/// What was found instead of what was wanted, cut short.
std::string got(const Json& json);

}  // namespace bronvel
