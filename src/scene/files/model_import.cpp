// Reading model files with the Open Asset Import Library.
#include "scene/files/model_import.h"

#include <assimp/config.h>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <algorithm>
#include <assimp/Importer.hpp>
#include <assimp/ProgressHandler.hpp>
#include <cctype>
#include <set>

#include "geometry/base/error.h"
#include "scene/document/names.h"
#include "scene/files/model_check.h"

namespace bronvel {
namespace {

std::string lower(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return text;
}

// Appends the node's triangles, taken along by where it stands.
void add_meshes(const aiScene& scene, const aiNode& node, const aiMatrix4x4& place, Model& model) {
  for (unsigned m = 0; m < node.mNumMeshes; ++m) {
    const aiMesh& mesh = *scene.mMeshes[node.mMeshes[m]];
    const auto first = static_cast<std::uint32_t>(model.points.size());
    for (unsigned i = 0; i < mesh.mNumVertices; ++i) {
      const aiVector3D p = place * mesh.mVertices[i];
      model.points.emplace_back(static_cast<double>(p.x), static_cast<double>(p.y), static_cast<double>(p.z));
    }
    for (unsigned f = 0; f < mesh.mNumFaces; ++f) {
      const aiFace& face = mesh.mFaces[f];
      if (face.mNumIndices != 3) continue;
      model.triangles.push_back({first + face.mIndices[0], first + face.mIndices[1], first + face.mIndices[2]});
    }
  }
}

class Walker {
 public:
  Walker(const aiScene& scene, ImportedModel& out) : scene_(scene), out_(out) {}

  void walk(const aiNode& node, const aiMatrix4x4& above, int depth) {
    if (depth > deepest_node) return;
    const aiMatrix4x4 place = above * node.mTransformation;
    if (node.mNumMeshes > 0) {
      ImportedPiece piece;
      add_meshes(scene_, node, place, piece.model);
      if (!piece.model.triangles.empty()) {
        std::string name = node.mName.C_Str();
        if (name.empty() || name.front() == '<') name = scene_.mMeshes[node.mMeshes[0]]->mName.C_Str();
        piece.name = fresh(allowed_name(name, "piece"));
        out_.triangles += piece.model.triangles.size();
        out_.pieces.push_back(std::move(piece));
      }
    }
    for (unsigned i = 0; i < node.mNumChildren; ++i) walk(*node.mChildren[i], place, depth + 1);
  }

 private:
  std::string fresh(const std::string& name) {
    std::string made = name;
    for (int n = 2; !names_.insert(made).second; ++n) made = name + "_" + std::to_string(n);
    return made;
  }

  const aiScene& scene_;
  ImportedModel& out_;
  std::set<std::string> names_;
};

}  // namespace

namespace {

// The library asks it as it goes.
class Patience : public Assimp::ProgressHandler {
 public:
  explicit Patience(const std::function<bool()>& go_on) : go_on_(go_on) {}
  bool Update(float) override { return !go_on_ || go_on_(); }

 private:
  const std::function<bool()>& go_on_;
};

}  // namespace

ImportedModel import_model(const std::filesystem::path& file, const std::function<bool()>& go_on) {
  const std::string place = file.filename().string(), ending = lower(file.extension().string());
  if (ending != ".obj" && ending != ".stl" && ending != ".gltf" && ending != ".glb")
    throw Error(place, "is none of the formats that can be read", "OBJ, STL, glTF (.gltf, .glb)");
  std::error_code none;
  if (!std::filesystem::is_regular_file(file, none)) throw Error(place, "is not there");
  if (std::filesystem::file_size(file, none) > 500'000'000) throw Error(place, "is larger than 500 MB");
  check_model_file(file);
  Assimp::Importer importer;
  importer.SetProgressHandler(new Patience(go_on));  // which it owns from now on
  importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
  const aiScene* scene = nullptr;
  try {
    scene = importer.ReadFile(file.string(),
                              aiProcess_Triangulate | aiProcess_JoinIdenticalVertices | aiProcess_SortByPType);
  } catch (const std::exception& e) {
    throw Error(place, std::string("can't be read: ") + e.what());
  }
  if (!scene || !scene->mRootNode || scene->mNumMeshes == 0) {
    const std::string why = importer.GetErrorString();
    throw Error(place, why.empty() ? "has no triangles in it" : "can't be read: " + why,
                "does it open in the program that made it?");
  }
  ImportedModel out;
  Walker(*scene, out).walk(*scene->mRootNode, aiMatrix4x4(), 0);
  if (out.pieces.empty()) throw Error(place, "has no triangles in it", "only points and lines can't collide");
  if (out.triangles > most_triangles)
    throw Error(place, "has " + std::to_string(out.triangles) + " triangles",
                "two million are the most: thin it out first");
  bool first = true;
  for (const ImportedPiece& piece : out.pieces) {
    for (const Vec3& p : piece.model.points)
      if (!finite(p) || p.cwiseAbs().maxCoeff() > 1e9)
        throw Error(place + ": " + piece.name, "has a point that is no number or far too far away");
    const Bounds bounds = model_bounds(piece.model);
    out.bounds = first ? bounds : out.bounds.joined(bounds);
    first = false;
  }
  return out;
}

Model in_metres(const Model& model, double scale, UpAxis up) {
  Model made = model;
  for (Vec3& p : made.points) {
    const Vec3 q = p * scale;
    p = up == UpAxis::y ? q : Vec3(q.x(), q.z(), -q.y());
  }
  return made;
}

Model joined_pieces(const ImportedModel& imported) {
  Model whole;
  for (const ImportedPiece& piece : imported.pieces) {
    const auto first = static_cast<std::uint32_t>(whole.points.size());
    whole.points.insert(whole.points.end(), piece.model.points.begin(), piece.model.points.end());
    for (const auto& t : piece.model.triangles) whole.triangles.push_back({first + t[0], first + t[1], first + t[2]});
  }
  return whole;
}

bool name_fits(const std::string& name, const std::string& patterns) {
  const std::string text = lower(name);
  // A star stands for any letters.
  const auto fits = [&](const std::string& pattern) {
    std::size_t p = 0, t = 0, star = std::string::npos, from = 0;
    while (t < text.size()) {
      if (p < pattern.size() && pattern[p] == '*') {
        star = p++;
        from = t;
      } else if (p < pattern.size() && pattern[p] == text[t]) {
        ++p;
        ++t;
      } else if (star != std::string::npos) {
        p = star + 1;
        t = ++from;
      } else {
        return false;
      }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
  };
  std::size_t at = 0;
  while (at <= patterns.size()) {
    const std::size_t end = std::min(patterns.find(',', at), patterns.size());
    std::string one = lower(patterns.substr(at, end - at));
    one.erase(std::remove(one.begin(), one.end(), ' '), one.end());
    if (!one.empty() && fits(one)) return true;
    at = end + 1;
  }
  return false;
}

}  // namespace bronvel
