// Reading and writing models.
#include "scene/files/model_text.h"

#include <charconv>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/properties/property.h"

namespace bronvel {

std::string write_model(const Model& model) {
  std::string text = "# metres, Y up\n";
  for (const Vec3& p : model.points)
    text += "v " + number_text(p.x()) + " " + number_text(p.y()) + " " + number_text(p.z()) + "\n";
  for (const auto& t : model.triangles)
    text += "f " + std::to_string(t[0] + 1) + " " + std::to_string(t[1] + 1) + " " + std::to_string(t[2] + 1) + "\n";
  return text;
}

Model read_model(const std::string& text, const std::string& file) {
  Model model;
  std::size_t at = 0;
  for (int number = 1; at < text.size(); ++number) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const std::string_view line(text.data() + at, end - at);
    at = end + 1;
    const auto fail = [&](const std::string& what) {
      throw Error(file + ":" + std::to_string(number), what, "import the mesh again");
    };
    // The next word, from `from` on.
    std::size_t from = 0;
    const auto word = [&]() -> std::string_view {
      while (from < line.size() && (line[from] == ' ' || line[from] == '\r' || line[from] == '\t')) ++from;
      const std::size_t start = from;
      while (from < line.size() && line[from] != ' ' && line[from] != '\r' && line[from] != '\t') ++from;
      return line.substr(start, from - start);
    };
    const std::string_view kind = word();
    if (kind == "v") {
      Vec3 point;
      for (int i = 0; i < 3; ++i) {
        const std::string_view one = word();
        const auto read = std::from_chars(one.data(), one.data() + one.size(), point[i]);
        if (read.ec != std::errc() || read.ptr != one.data() + one.size() || one.empty()) fail("wants three numbers");
      }
      model.points.push_back(point);
    } else if (kind == "f") {
      std::array<std::uint32_t, 3> corners{};
      for (std::uint32_t& corner : corners) {
        const std::string_view one = word();
        if (std::from_chars(one.data(), one.data() + one.size(), corner).ec != std::errc() || corner == 0)
          fail("wants three corners, counted from 1");
        --corner;
      }
      if (!word().empty()) fail("has a face of more than three corners");
      model.triangles.push_back(corners);
    }
  }
  if (const std::string fault = model_fault(model); !fault.empty()) throw Error(file, fault, "import the mesh again");
  return model;
}

}  // namespace bronvel
