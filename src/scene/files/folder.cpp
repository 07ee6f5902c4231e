// Opening and saving scene folders.
#include "scene/files/folder.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/files/fault.h"
#include "scene/files/model_text.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

namespace bronvel {
namespace fs = std::filesystem;
namespace {

constexpr std::uintmax_t largest_file = 1'000'000'000;

// Closes the file descriptor at the end of its scope.
struct OpenFile {
  int number;
  explicit OpenFile(int n) : number(n) {}
  OpenFile(const OpenFile&) = delete;
  OpenFile& operator=(const OpenFile&) = delete;
  ~OpenFile() {
    if (number >= 0) close(number);
  }
};

[[noreturn]] void fail(const fs::path& file, const std::string& what) {
  const std::string why = std::strerror(errno);
  throw Error(file.string(), what + ": " + why);
}

}  // namespace

std::string read_file(const fs::path& file) {
  // A pipe would block, a device never end.
  std::error_code none;
  if (fs::exists(file, none) && !fs::is_regular_file(file, none)) throw Error(file.string(), "is not a regular file");
  if (const auto size = fs::file_size(file, none); !none && size > largest_file)
    throw Error(file.string(), "is larger than 1 GB");
  std::ifstream in(file, std::ios::binary);
  if (!in) throw Error(file.string(), "can't be read", "is the path right?");
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

void write_atomically(const fs::path& file, const std::string& text) {
  fs::path beside = file;
  beside += ".saving";
  {
    const OpenFile out(open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644));
    if (out.number < 0) fail(file, "can't be written");
    std::size_t done = 0;
    while (done < text.size()) {
      const ssize_t wrote = write(out.number, text.data() + done, text.size() - done);
      if (wrote < 0 && errno == EINTR) continue;
      if (wrote < 0) {
        const int why = errno;
        unlink(beside.c_str());
        errno = why;
        fail(file, "can't be written; what was there before is untouched");
      }
      done += static_cast<std::size_t>(wrote);
    }
    if (fsync(out.number) != 0) fail(file, "can't be flushed to disk");
  }
  if (rename(beside.c_str(), file.c_str()) != 0) fail(file, "can't be replaced");
  const OpenFile folder(open(file.parent_path().empty() ? "." : file.parent_path().c_str(), O_RDONLY | O_CLOEXEC));
  if (folder.number >= 0) fsync(folder.number);
}

Models read_models(const fs::path& folder) {
  Models models;
  if (!fs::is_directory(folder / "meshes")) return models;
  for (const auto& entry : fs::directory_iterator(folder / "meshes"))
    if (entry.is_regular_file() && entry.path().extension() == ".obj")
      models[entry.path().stem().string()] =
          std::make_shared<const Model>(read_model(read_file(entry.path()), entry.path().string()));
  return models;
}

namespace {

// Whether the file holds the model already, however it is written there.
bool holds(const fs::path& file, const Model& model) {
  if (!fs::exists(file)) return false;
  try {
    return read_model(read_file(file), file.string()) == model;
  } catch (const Error&) {
    return false;
  }
}

}  // namespace

SceneFolder open_folder(const fs::path& given) {
  SceneFolder folder;
  folder.path = given.filename() == "scene.json" ? given.parent_path() : given;
  if (!fs::is_directory(folder.path))
    throw Error(given.string(), "is not a scene folder", "a scene is a folder with a scene.json in it");
  const fs::path file = folder.path / "scene.json";
  if (!fs::exists(file)) throw Error(folder.path.string(), "has no scene.json in it");
  folder.scene = read_scene(read_file(file), file.string(), read_models(folder.path));
  if (fs::is_directory(folder.path / "scripts"))
    for (const auto& entry : fs::directory_iterator(folder.path / "scripts"))
      if (entry.is_regular_file() && entry.path().extension() == ".lua")
        folder.scripts[entry.path().filename().string()] = read_file(entry.path());
  for (const Body& body : folder.scene.bodies)
    for (const ScriptUse& use : body.scripts)
      if (!folder.scripts.contains(use.file))
        throw Error(file.string() + ": " + body.name, "names the script " + use.file + ", which is not in scripts/");
  return folder;
}

namespace {

void make_folder(const fs::path& path) {
  std::error_code fault;
  fs::create_directories(path, fault);
  if (fault) throw Error(path.string(), "can't be made: " + fault.message(), "choose another folder");
}

}  // namespace

void save_folder(const SceneFolder& folder) {
  check_scene(folder.scene);
  make_folder(folder.path / "scripts");
  for (const auto& [name, text] : folder.scripts) {
    const fs::path file = folder.path / "scripts" / name;
    if (!fs::exists(file) || read_file(file) != text) write_atomically(file, text);
  }
  if (!folder.scene.models.empty()) make_folder(folder.path / "meshes");
  for (const auto& [name, model] : folder.scene.models) {
    const fs::path file = folder.path / "meshes" / (name + ".obj");
    if (!holds(file, *model)) write_atomically(file, write_model(*model));
  }
  write_atomically(folder.path / "scene.json", write_scene(folder.scene));
}

}  // namespace bronvel
