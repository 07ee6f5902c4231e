// Models in and out of text, from files of other programs, and those that nobody here made.
#include <catch2/catch.hpp>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "geometry/base/error.h"
#include "geometry/meshes/fit.h"
#include "geometry/shapes/compound.h"
#include "scene/files/folder.h"
#include "scene/files/model_import.h"
#include "scene/files/model_text.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

// Under the sanitizers everything takes ten times as long.
#ifdef __SANITIZE_ADDRESS__
constexpr std::size_t most_fitted = 200;
#else
constexpr std::size_t most_fitted = 5000;
#endif

fs::path fresh_folder(const std::string& name) {
  const fs::path folder = fs::temp_directory_path() / ("bronvel-" + name + "-" + std::to_string(getpid()));
  fs::remove_all(folder);
  fs::create_directories(folder);
  return folder;
}

// Reads every mesh under the folder: each comes in whole and sane, or is refused with a reason. Gives how many came in.
int read_all(const fs::path& folder, bool with_fits) {
  int read = 0;
  for (const auto& entry : fs::recursive_directory_iterator(folder)) {
    std::string ending = entry.path().extension().string();
    for (char& letter : ending) letter = static_cast<char>(std::tolower(letter));
    if (ending != ".obj" && ending != ".stl" && ending != ".gltf" && ending != ".glb") continue;
    INFO(entry.path().string());
    try {
      const ImportedModel imported = import_model(entry.path());
      ++read;
      REQUIRE_FALSE(imported.pieces.empty());
      const Model model = joined_pieces(imported);
      CHECK(model_fault(model).empty());
      CHECK(read_model(write_model(model), "model.obj") == model);
      if (!with_fits || model.triangles.size() > most_fitted) continue;
      const double extent = (imported.bounds.high - imported.bounds.low).norm();
      for (int kind = 0; kind < 7; ++kind) {
        const Fit fit = fit_to(model, static_cast<FitKind>(kind), {6, 0.05, 300});
        if (!fit.fault.empty()) continue;
        CHECK(std::isfinite(fit.misfit.gap));
        CHECK(fit.misfit.gap <= extent);
        CHECK(fit.pose.position.allFinite());
        if (fit.kind == FitKind::box && fit.misfit.volume_ratio > 0) CHECK(fit.misfit.volume_ratio > 0.999);
      }
    } catch (const Error& e) {
      CHECK(std::string(e.what()).size() > entry.path().filename().string().size() + 10);
    }
  }
  return read;
}

}  // namespace

TEST_CASE("a model's text comes back bit for bit; a broken one names its line") {
  Model model;
  model.points = {{1.0 / 3, -2e-7, 1e5}, {0, 1, 0}, {0, 0, 0.1}};
  model.triangles = {{0, 1, 2}};
  CHECK(read_model(write_model(model), "m.obj") == model);
  CHECK_THROWS_WITH(read_model("v 1 2\n", "m.obj"), Catch::Contains("m.obj:1"));
  CHECK_THROWS_WITH(read_model("v 1 2 3\nf 1 2 0\n", "m.obj"), Catch::Contains("m.obj:2"));
  CHECK_THROWS_WITH(read_model("v 1 2 3\nf 1 2 3\n", "m.obj"), Catch::Contains("not among its points"));
  CHECK_THROWS_WITH(read_model("# nothing\n", "m.obj"), Catch::Contains("no triangles"));
}

TEST_CASE("pieces, scale and the upward axis of a file") {
  const fs::path folder = fresh_folder("pieces");
  std::ofstream(folder / "gate.obj") << "o base frame\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
                                        "o leaf\nv 0 0 2\nv 1 0 2\nv 0 1 2\nf 4 5 6\n";
  const ImportedModel imported = import_model(folder / "gate.obj");
  REQUIRE(imported.pieces.size() == 2);
  CHECK(imported.pieces[1].name == "leaf");
  CHECK(imported.triangles == 2);
  const Model turned = in_metres(imported.pieces[1].model, 0.001, UpAxis::z);
  CHECK(turned.points[0].isApprox(Vec3(0, 0.002, 0)));
  CHECK(name_fits("Base_Frame", "leaf*, *_frame"));
  CHECK(name_fits("leaf", "l*f"));
  CHECK_FALSE(name_fits("hinge", "leaf*, *_frame"));
  CHECK_FALSE(name_fits("hinge", ""));
  CHECK_THROWS_WITH(import_model(folder / "gate.step"), Catch::Contains("OBJ, STL, glTF"));
  CHECK_THROWS_WITH(import_model(folder / "none.obj"), Catch::Contains("not there"));
  fs::remove_all(folder);
}

TEST_CASE("real meshes come in with a sane fit or a clear refusal") {
  const fs::path models = "/usr/share/assimp/models";
  if (!fs::exists(models)) {
    WARN("assimp-testmodels is not installed: run tools/install-packages");
    return;
  }
  CHECK(read_all(models / "OBJ", true) >= 15);
  CHECK(read_all(models / "STL", true) >= 6);
  CHECK(read_all(models / "glTF", true) >= 5);
  CHECK(read_all(models / "glTF2", true) >= 15);
}

TEST_CASE("meshes of the packages stl-models and bunny, fetched for this test") {
  const fs::path folder = fresh_folder("packages");
  const std::string fetch = "cd " + folder.string() +
                            " && npm pack --silent stl-models@0.12.0 bunny@1.0.1 >/dev/null 2>&1 && "
                            "for each in *.tgz; do mkdir ${each%.tgz} && tar xzf $each -C ${each%.tgz}; done && "
                            "node -e \"const b = require('./bunny-1.0.1/package'); const out = [];"
                            "b.positions.forEach(p => out.push('v ' + p.join(' ')));"
                            "b.cells.forEach(c => out.push('f ' + c.map(i => i + 1).join(' ')));"
                            "require('fs').writeFileSync('bunny.obj', out.join('\\n') + '\\n')\"";
  if (std::system(fetch.c_str()) != 0) {
    WARN("the packages could not be fetched: no npm, or no registry in reach");
    fs::remove_all(folder);
    return;
  }
  CHECK(read_all(folder, true) >= 10);
  const Model bunny = joined_pieces(import_model(folder / "bunny.obj"));
  CHECK(bunny.triangles.size() > 3000);
  if (bunny.triangles.size() > 2 * most_fitted) {
    fs::remove_all(folder);
    return;
  }
  const Fit hull = fit_to(bunny, FitKind::hull), set = fit_to(bunny, FitKind::hulls);
  REQUIRE(hull.fault.empty());
  REQUIRE(set.fault.empty());
  CHECK(set.misfit.gap < hull.misfit.gap);
  const Bounds bounds = model_bounds(bunny);
  std::printf("bunny: hull off by %.1f %%, %d hulls by %.1f %% of its height\n",
              100 * hull.misfit.gap / (bounds.high - bounds.low).y(), set.parts,
              100 * set.misfit.gap / (bounds.high - bounds.low).y());
  fs::remove_all(folder);
}
