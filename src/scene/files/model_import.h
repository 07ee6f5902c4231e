// Models from files of other programs: OBJ, STL and glTF.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "geometry/meshes/model.h"

namespace bronvel {

/// One named piece of a file, in the file's own units and axes.
struct ImportedPiece {
  std::string name;  ///< allowed as a body's name, and no other piece's
  Model model;
};

struct ImportedModel {
  std::vector<ImportedPiece> pieces;  ///< at least one
  std::size_t triangles = 0;          ///< of all
  Bounds bounds;                      ///< of all, in the file's units
};

enum class UpAxis { y, z };

/// Reads the file. What is no triangle is left out, as are materials, bones and lights. Throws Error with the reason
/// and what to do: a format that is not known, a broken file, nothing but points and lines, numbers that are none, more
/// than two million triangles; and when `go_on` (asked now and then, if there is one) gives it up.
ImportedModel import_model(const std::filesystem::path& file, const std::function<bool()>& go_on = {});

/// The model in metres with Y up: multiplied by `scale` and, for a file with Z up, turned.
Model in_metres(const Model& model, double scale, UpAxis up);

/// Whether the name fits one of the patterns, parted by commas: "base*, *_fixed". Small and capital letters are alike.
bool name_fits(const std::string& name, const std::string& patterns);

/// All pieces as one.
Model joined_pieces(const ImportedModel& imported);

}  // namespace bronvel
