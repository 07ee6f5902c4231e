// Models as text: the points and faces of Wavefront's open OBJ format, in metres, Y up.
#pragma once

#include <string>

#include "geometry/meshes/model.h"

namespace bronvel {

/// Exact: `read_model` gives the same model back.
std::string write_model(const Model& model);

/// Reads `v` and triangular `f` lines; comments, names and normals are passed over. Throws Error with file and line.
Model read_model(const std::string& text, const std::string& file);

}  // namespace bronvel
