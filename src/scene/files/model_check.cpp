// Looking at model files before reading them. Formats: Khronos, glTF 2.0; Wavefront OBJ; stereolithography's STL.
#include "scene/files/model_check.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <fstream>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/document/json_place.h"
#include "scene/files/json_text.h"

namespace bronvel {
namespace {

constexpr std::size_t most_nodes = 100'000;
constexpr double most_accessor = 5e8;  // bytes
constexpr std::size_t longest_line = 65536;
constexpr std::size_t most_corners = 1000;  // of one polygon

[[noreturn]] void refuse(const std::filesystem::path& file, const std::string& what, const std::string& remedy = "") {
  throw Error(file.filename().string(), what, remedy);
}

std::uint32_t number_at(const char* bytes) {
  std::array<unsigned char, 4> b{};
  std::memcpy(b.data(), bytes, b.size());
  return b[0] | static_cast<std::uint32_t>(b[1]) << 8 | static_cast<std::uint32_t>(b[2]) << 16 |
         static_cast<std::uint32_t>(b[3]) << 24;
}

double number(const Json& json, const char* key, double otherwise) {
  return json.is_object() && json.contains(key) && json[key].is_number() ? json[key].get<double>() : otherwise;
}

const Json& list(const Json& json, const char* key) {
  static const Json none = Json::array();
  return json.is_object() && json.contains(key) && json[key].is_array() ? json[key] : none;
}

class Gltf {
 public:
  Gltf(const std::filesystem::path& file, const Json& root, double binary_bytes)
      : file_(file), root_(root), binary_bytes_(binary_bytes) {}

  void check() {
    if (!root_.is_object()) refuse(file_, "is not glTF: it wants an object { … } at the top");
    buffers();
    accessors();
    nodes();
  }

 private:
  void buffers() {
    std::size_t at = 0;
    for (const Json& buffer : list(root_, "buffers")) {
      const double length = number(buffer, "byteLength", 0);
      double there = at++ == 0 ? binary_bytes_ : 0;
      if (buffer.is_object() && buffer.contains("uri") && buffer["uri"].is_string()) {
        const auto& uri = buffer["uri"].get_ref<const std::string&>();
        if (uri.starts_with("data:")) {
          there = static_cast<double>(uri.size());
        } else {
          std::error_code fault;
          const auto beside = file_.parent_path() / uri;
          if (!std::filesystem::is_regular_file(beside, fault))
            refuse(file_, "names the file " + uri.substr(0, 100) + ", which is not there");
          there = static_cast<double>(std::filesystem::file_size(beside, fault));
        }
      }
      if (!(length >= 0) || length > there)
        refuse(file_,
               "says of a buffer that it has " + std::to_string(static_cast<std::int64_t>(std::min(length, 1e15))) +
                   " bytes, but only " + std::to_string(static_cast<std::int64_t>(there)) + " are there",
               "it was cut short, or written wrongly");
    }
  }

  void accessors() {
    static const std::map<std::string, int> sizes{{"SCALAR", 1}, {"VEC2", 2}, {"VEC3", 3}, {"VEC4", 4},
                                                  {"MAT2", 4},   {"MAT3", 9}, {"MAT4", 16}};
    const Json& views = list(root_, "bufferViews");
    double unbacked = 0;
    for (const Json& accessor : list(root_, "accessors")) {
      const double count = number(accessor, "count", 0);
      const std::string type = accessor.is_object() && accessor.contains("type") && accessor["type"].is_string()
                                   ? accessor["type"].get<std::string>()
                                   : "";
      const auto known = sizes.find(type);
      const double kind = number(accessor, "componentType", 5126);
      const double width = kind == 5120 || kind == 5121 ? 1 : kind == 5122 || kind == 5123 ? 2 : 4;
      const double bytes = count * width * (known == sizes.end() ? 16 : known->second);
      if (!(count >= 0) || bytes > most_accessor) refuse(file_, "has an accessor of more than 500 MB");
      const double view = number(accessor, "bufferView", -1);
      if (view < 0) {
        unbacked += bytes;
        continue;
      }
      if (view >= static_cast<double>(views.size()))
        refuse(file_, "has an accessor of a buffer view that is not there");
      if (bytes > 0 && count > number(views[static_cast<std::size_t>(view)], "byteLength", 0))
        refuse(file_, "has an accessor that counts more than its buffer view holds",
               "it was cut short, or written wrongly");
    }
    if (unbacked > most_accessor) refuse(file_, "has accessors without bytes of more than 500 MB");
  }

  double triangles_of(const Json& mesh) const {
    const Json& accessors = list(root_, "accessors");
    double corners = 0;
    for (const Json& primitive : list(mesh, "primitives")) {
      double which = number(primitive, "indices", -1);
      if (which < 0 && primitive.is_object() && primitive.contains("attributes"))
        which = number(primitive["attributes"], "POSITION", -1);
      if (which >= 0 && which < static_cast<double>(accessors.size())) {
        const double count = number(accessors[static_cast<std::size_t>(which)], "count", 0);
        // Strips and fans have a triangle for each corner.
        corners += number(primitive, "mode", 4) > 4 ? 3 * count : count;
      }
    }
    return corners / 3;
  }

  void nodes() {
    const Json& nodes = list(root_, "nodes");
    const Json& meshes = list(root_, "meshes");
    if (nodes.size() > most_nodes) refuse(file_, "has more than 100,000 nodes");
    std::vector<int> parents(nodes.size(), -1);
    double triangles = 0;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      for (const Json& child : list(nodes[i], "children")) {
        const double at = child.is_number() ? child.get<double>() : -1;
        if (at < 0 || at >= static_cast<double>(nodes.size()))
          refuse(file_, "has a node with a child that is not there");
        int& parent = parents[static_cast<std::size_t>(at)];
        if (parent >= 0) refuse(file_, "has a node with two parents", "in glTF a node has one");
        parent = static_cast<int>(i);
      }
      const double mesh = number(nodes[i], "mesh", -1);
      if (mesh >= 0 && mesh < static_cast<double>(meshes.size()))
        triangles += triangles_of(meshes[static_cast<std::size_t>(mesh)]);
    }
    if (triangles > most_triangles)
      refuse(
          file_,
          "has " + std::to_string(static_cast<std::int64_t>(triangles)) + " triangles in all places that they are put",
          "two million are the most: thin it out first");
    // With one parent each, going up ends, or goes in a ring.
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      int depth = 0;
      for (int at = static_cast<int>(i); at >= 0; at = parents[static_cast<std::size_t>(at)])
        if (++depth > deepest_node)
          refuse(file_, "has nodes more than 200 deep in each other, or in a ring", "flatten it where it was made");
    }
  }

  const std::filesystem::path& file_;
  const Json& root_;
  double binary_bytes_;
};

void check_gltf(const std::filesystem::path& file, const std::string& text, double binary_bytes) {
  if (const auto fault = json_text_fault(text)) refuse(file, fault->what, fault->remedy);
  Json root;
  try {
    root = Json::parse(text);
  } catch (const Json::exception&) {
    refuse(file, "is not glTF: its text is no JSON");
  }
  Gltf(file, root, binary_bytes).check();
}

void check_glb(const std::filesystem::path& file, std::istream& in, std::uintmax_t size) {
  std::array<char, 12> head{};
  in.read(head.data(), head.size());
  if (!in || std::memcmp(head.data(), "glTF", 4) != 0) refuse(file, "is no GLB file: it does not begin as one");
  if (number_at(head.data() + 4) != 2) refuse(file, "is a GLB of another version than 2");
  if (number_at(head.data() + 8) > size)
    refuse(file, "says that it is longer than it is", "it was cut short, or written wrongly");
  std::uintmax_t left = size - head.size();
  std::string text;
  double binary = 0;
  for (int chunk = 0; left >= 8 && chunk < 2; ++chunk) {
    std::array<char, 8> chunk_head{};
    in.read(chunk_head.data(), chunk_head.size());
    left -= 8;
    const std::uint32_t length = number_at(chunk_head.data());
    if (!in || length > left)
      refuse(file, "has a part that says it is longer than it is", "it was cut short, or written wrongly");
    if (chunk == 0) {
      text.resize(length);
      in.read(text.data(), length);
    } else {
      binary = length;
    }
    left -= length;
  }
  check_gltf(file, text, binary);
}

void check_stl(const std::filesystem::path& file, std::istream& in, std::uintmax_t size) {
  std::array<char, 84> head{};
  in.read(head.data(), head.size());
  if (in.gcount() < 84) return;  // Too short for the binary kind.
  const double triangles = number_at(head.data() + 80);
  constexpr double each = 50;  // bytes
  const bool as_text = std::memcmp(head.data(), "solid", 5) == 0 && 84 + each * triangles != static_cast<double>(size);
  if (as_text) return;
  if (84 + each * triangles > static_cast<double>(size))
    refuse(file,
           "says that it has " + std::to_string(static_cast<std::int64_t>(triangles)) + " triangles, but ends before",
           "it was cut short, or written wrongly");
}

void check_obj(const std::filesystem::path& file, std::istream& in) {
  double triangles = 0;
  std::string line;
  std::vector<char> piece(longest_line);
  // Read by hand: a line without end must not be kept.
  line.reserve(256);
  const auto end_line = [&] {
    if (line.size() > 1 && line[0] == 'f' && (line[1] == ' ' || line[1] == '\t')) {
      std::istringstream words(line.substr(2));
      std::size_t corners = 0;
      for (std::string word; words >> word;) ++corners;
      if (corners > most_corners)
        refuse(file, "has a face of more than 1,000 corners", "cut it into triangles where it was made");
      triangles += corners > 2 ? static_cast<double>(corners) - 2 : 0;
      if (triangles > most_triangles) refuse(file, "has more than two million triangles", "thin it out first");
    }
    line.clear();
  };
  while (in) {
    in.read(piece.data(), static_cast<std::streamsize>(piece.size()));
    for (std::streamsize i = 0; i < in.gcount(); ++i) {
      const char c = piece[static_cast<std::size_t>(i)];
      if (c == '\n') {
        end_line();
      } else {
        line += c;
        if (line.size() > longest_line) refuse(file, "has a line longer than 64 kB");
      }
    }
  }
  end_line();
}

}  // namespace

void check_model_file(const std::filesystem::path& file) {
  std::string ending = file.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  std::ifstream in(file, std::ios::binary);
  if (!in) refuse(file, "can't be opened");
  std::error_code fault;
  const std::uintmax_t size = std::filesystem::file_size(file, fault);
  if (ending == ".glb") {
    check_glb(file, in, size);
  } else if (ending == ".gltf") {
    const std::string text{std::istreambuf_iterator<char>(in), {}};
    check_gltf(file, text, 0);
  } else if (ending == ".stl") {
    check_stl(file, in, size);
  } else {
    check_obj(file, in);
  }
}

}  // namespace bronvel
