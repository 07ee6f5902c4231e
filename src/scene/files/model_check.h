// What a model file says of itself, looked at before anything is made of it: files that lie about their sizes, or that
// grow without end as they are unfolded, are refused with words.
#pragma once

#include <filesystem>

namespace bronvel {

inline constexpr std::size_t most_triangles = 2'000'000;  ///< of a model file
inline constexpr int deepest_node = 200;                  ///< nodes within nodes

/// Throws Error, placed at the file's name. What a file may hold: 2,000,000 triangles in all places that its nodes put
/// them, nodes 200 deep and of one parent each, buffers and accessors no larger than the bytes that are there.
void check_model_file(const std::filesystem::path& file);

}  // namespace bronvel
