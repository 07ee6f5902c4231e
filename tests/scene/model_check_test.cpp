// Model files that lie, grow without end or nest without end are refused with words, before anything is made of them.
#include "scene/files/model_check.h"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <random>

#include "geometry/base/error.h"
#include "geometry/meshes/decompose.h"
#include "geometry/meshes/fit.h"
#include "scene/files/model_import.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

fs::path file_of(const std::string& name, const std::string& text) {
  const fs::path folder = fs::temp_directory_path() / "bronvel-models";
  fs::create_directories(folder);
  std::ofstream(folder / name, std::ios::binary) << text;
  return folder / name;
}

std::string number(std::uint32_t n) {
  std::string bytes;
  for (int i = 0; i < 4; ++i) bytes += static_cast<char>(n >> (8 * i) & 0xFF);
  return bytes;
}

std::string glb(const std::string& json, const std::string& binary = "", std::uint32_t lie = 0) {
  std::string text = json;
  while (text.size() % 4 != 0) text += ' ';
  std::string chunks = number(static_cast<std::uint32_t>(text.size())) + "JSON" + text;
  if (!binary.empty())
    chunks += number(static_cast<std::uint32_t>(binary.size()) + lie) + std::string("BIN\0", 4) + binary;
  return "glTF" + number(2) + number(static_cast<std::uint32_t>(12 + chunks.size())) + chunks;
}

const std::string triangle = R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
  "nodes": [NODES], "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
  "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]}],
  "bufferViews": [{"buffer": 0, "byteLength": 36}], "buffers": [{"byteLength": 36}]})";

std::string with_nodes(const std::string& nodes) {
  std::string text = triangle;
  return text.replace(text.find("NODES"), 5, nodes);
}

std::string three_points() {
  const float points[] = {0, 0, 0, 1, 0, 0, 0, 1, 0};
  return {reinterpret_cast<const char*>(points), sizeof points};
}

std::string fault_of(const std::string& name, const std::string& text) {
  try {
    import_model(file_of(name, text));
  } catch (const Error& e) {
    return e.what();
  }
  return "";
}

}  // namespace

TEST_CASE("a good GLB is read; one whose sizes lie is refused") {
  CHECK(fault_of("good.glb", glb(with_nodes(R"({"mesh": 0})"), three_points())).empty());
  CHECK_THAT(fault_of("a.glb", glb(with_nodes(R"({"mesh": 0})"), three_points(), 1000000)),
             Catch::Contains("longer than it is"));
  CHECK_THAT(fault_of("b.glb", glb(with_nodes(R"({"mesh": 0})"), "1234")), Catch::Contains("only 4 are there"));
  std::string counts = with_nodes(R"({"mesh": 0})");
  counts.replace(counts.find("\"count\": 3"), 10, "\"count\": 4000000000");
  CHECK_THAT(fault_of("c.glb", glb(counts, three_points())), Catch::Contains("500 MB"));
  counts = with_nodes(R"({"mesh": 0})");
  counts.replace(counts.find("\"count\": 3"), 10, "\"count\": 400");
  CHECK_THAT(fault_of("d.glb", glb(counts, three_points())), Catch::Contains("more than its buffer view"));
  CHECK_THAT(fault_of("e.glb", "glTF" + number(1)), Catch::Contains("does not begin") || Catch::Contains("version"));
  CHECK_THAT(fault_of("f.glb", "glTF" + number(2) + number(1u << 30)), Catch::Contains("longer than it is"));
  CHECK_FALSE(fault_of("g.glb", "").empty());
}

TEST_CASE("nodes that nest, go in rings or fan out without end are refused") {
  std::string deep;
  for (int i = 0; i < 5000; ++i) deep += "{\"children\": [" + std::to_string(i + 1) + "]}, ";
  CHECK_THAT(fault_of("deep.glb", glb(with_nodes(deep + R"({"mesh": 0})"), three_points())),
             Catch::Contains("200 deep"));
  CHECK_THAT(
      fault_of("ring.glb", glb(with_nodes(R"({"children": [1]}, {"children": [0], "mesh": 0})"), three_points())),
      Catch::Contains("in a ring"));
  // Each level twice the one below: 2^40 triangles of 40 nodes.
  std::string fan;
  for (int i = 0; i < 40; ++i)
    fan += "{\"children\": [" + std::to_string(i + 1) + ", " + std::to_string(i + 1) + "]}, ";
  CHECK_THAT(fault_of("fan.glb", glb(with_nodes(fan + R"({"mesh": 0})"), three_points())),
             Catch::Contains("two parents"));
  std::string many;
  std::string children;
  for (int i = 1; i <= 90000; ++i) {
    many += ", {\"mesh\": 0}";
    children += (i > 1 ? "," : "") + std::to_string(i);
  }
  std::string whole = with_nodes("{\"children\": [" + children + "]}" + many);
  whole.replace(whole.find("\"count\": 3"), 10, "\"count\": 9000");
  for (auto at = whole.find("\"byteLength\": 36"); at != std::string::npos; at = whole.find("\"byteLength\": 36"))
    whole.replace(at, 16, "\"byteLength\": 108000");
  CHECK_THAT(fault_of("many.glb", glb(whole, std::string(108000, '\0'))), Catch::Contains("two million"));
}

TEST_CASE("STL and OBJ files that lie or run on are refused") {
  CHECK_THAT(fault_of("lie.stl", std::string(80, 'x') + number(1000000) + std::string(100, '\0')),
             Catch::Contains("ends before"));
  CHECK_FALSE(fault_of("short.stl", "solid").empty());
  std::string face = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf";
  for (int i = 0; i < 2000; ++i) face += " 1";
  CHECK_THAT(fault_of("face.obj", face + "\n"), Catch::Contains("1,000 corners"));
  CHECK_THAT(fault_of("line.obj", "v " + std::string(200000, '1')), Catch::Contains("longer than 64 kB"));
  CHECK_FALSE(fault_of("no.obj", "f 1 2 3\n").empty());
  CHECK(fault_of("good.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n").empty());
}

TEST_CASE("files of any bytes are read or refused") {
  std::mt19937 random(4);
  const std::string good = glb(with_nodes(R"({"mesh": 0})"), three_points());
  for (int i = 0; i < 300; ++i) {
    std::string altered = good;
    for (int k = 0; k < 1 + i % 4; ++k) altered[random() % altered.size()] = static_cast<char>(random());
    if (i % 5 == 0) altered.resize(random() % altered.size());
    const std::string name = i % 3 == 0 ? "any.glb" : i % 3 == 1 ? "any.stl" : "any.obj";
    try {
      import_model(file_of(name, altered));
    } catch (const Error&) {
      continue;
    }
  }
}

TEST_CASE("a mesh of very many random triangles is fitted or given up, but ends") {
  std::mt19937 random(6);
  std::uniform_real_distribution<double> any(-1, 1);
  Model model;
  for (int i = 0; i < 60000; ++i) model.points.push_back(Vec3(any(random), any(random), any(random)).normalized());
  for (std::uint32_t i = 0; i + 2 < 60000; i += 3) model.triangles.push_back({i, i + 1, i + 2});
  int asked = 0;
  FitPlan plan;
  plan.go_on = [&] { return ++asked < 200; };
  const Fit fit = fit_to(model, FitKind::hulls, plan);
  CHECK_THAT(fit.fault, Catch::Contains("given up"));
  CHECK(asked >= 200);
  // All of its points are corners of its hull; the simple one stays within it.
  const Hull simple = simple_hull(model.points, 64);
  CHECK(simple.data->corners.size() <= 64);
  CHECK(simple.data->volume > 0.8 * 4.18879);
  CHECK(simple.data->volume < 4.18879);
}
