// Writing and reading takes.
#include "lab/takes/take_file.h"

#include <sqlite3.h>
#include <zstd.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <memory>
#include <sstream>

#include "geometry/base/error.h"
#include "lab/takes/take_records.h"
#include "scene/files/json_text.h"
#include "scene/files/model_text.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

namespace bronvel {
namespace {

constexpr int effort = 3;
// Versions of the file.
constexpr int first_with_contacts = 2;
constexpr int first_with_bonds = 3;
constexpr int first_with_gravity = 5;
constexpr int first_with_moments = 5;  // of touches within their ticks
constexpr int first_with_ends = 6;     // of joints that went to a piece
// A part of more bytes is kept in pieces: the database takes a thousand million bytes at once.
constexpr std::size_t bytes_a_piece = std::size_t{64} << 20;
constexpr std::size_t most_part_bytes = std::size_t{8} << 30;
constexpr std::int64_t most_ticks = std::int64_t{1} << 27;  // twelve days at 120 Hz

void put_mass(ByteList& to, const MassProperties& m) {
  put_plain(to, m.mass), put_plain(to, m.centre);
  for (int i = 0; i < 9; ++i) put_plain(to, m.inertia.data()[i]);
}
MassProperties take_mass(ByteView& from) {
  MassProperties m;
  m.mass = take_double(from), m.centre = take_vector(from);
  for (int i = 0; i < 9; ++i) m.inertia.data()[i] = take_double(from);
  return m;
}

// ---- settings of bodies that are not as in the scene: written as the bodies of a scene of their own

Scene beside(const Scene& scene) {
  Scene other;
  other.surfaces = scene.surfaces;
  other.groups = scene.groups;
  other.models = scene.models;
  return other;
}

// As the scene's reader takes it: what only means something within the scene is left out, and found again there.
Body alone(Body body, std::size_t number) {
  body.name = "b" + std::to_string(number);
  body.scripts.clear();
  body.breaking = {};
  body.stamped = {};
  body.locked = false;
  if (std::holds_alternative<Mesh>(body.shape) || std::holds_alternative<HeightField>(body.shape))
    if (body.kind == MotionKind::dynamic) body.kind = MotionKind::fixed;
  return body;
}

void put_bodies(ByteList& to, const Take& take, Scene& settings) {
  put_number(to, static_cast<std::int64_t>(take.bodies.size()));
  for (const BodyTrack& track : take.bodies) {
    put_text(to, track.name);
    put_number(to, track.first), put_number(to, track.end);
    put_number(to, static_cast<std::int64_t>(track.settings.size()));
    for (const SettingsFrom& each : track.settings) {
      put_number(to, each.tick);
      const Body* of_scene = take.folder.scene.find(track.name);
      if (of_scene && *of_scene == *each.body) {
        put_number(to, 0);
      } else {
        settings.bodies.push_back(alone(*each.body, settings.bodies.size()));
        put_number(to, static_cast<std::int64_t>(settings.bodies.size()));
      }
      put_mass(to, each.mass);
    }
    track.rows.write(to);
  }
}

void take_bodies(ByteView& from, Take& take, const Scene& settings) {
  const std::size_t count = take_length(from);
  for (std::size_t i = 0; i < count; ++i) {
    BodyTrack track;
    track.name = take_text_off(from);
    track.first = take_number_off(from), track.end = take_number_off(from);
    const Body* of_scene = take.folder.scene.find(track.name);
    const std::size_t changes = take_length(from);
    for (std::size_t k = 0; k < changes; ++k) {
      SettingsFrom each;
      each.tick = take_number_off(from);
      const std::int64_t where = take_number_off(from);
      if (where < 0 || static_cast<std::size_t>(where) > settings.bodies.size() || (where == 0 && !of_scene))
        throw Error("take", "names settings that it does not hold");
      Body body = where == 0 ? *of_scene : settings.bodies[static_cast<std::size_t>(where) - 1];
      body.name = track.name;
      if (where > 0 && of_scene) {
        body.scripts = of_scene->scripts;
        body.stamped = of_scene->stamped;
        body.locked = of_scene->locked;
      }
      each.body = std::make_shared<const Body>(std::move(body));
      each.mass = take_mass(from);
      track.settings.push_back(std::move(each));
    }
    track.rows = PackedRows::read(from, body_columns);
    take.body_of[track.name] = i;
    take.bodies.push_back(std::move(track));
  }
}

// Joints and zones as those of a scene with bodies of the names they need.
Scene for_joints(const Take& take) {
  Scene other;
  for (const JointTrack& track : take.joints) {
    SceneJoint joint = track.joint;
    joint.name = "j" + std::to_string(other.joints.size());
    joint.stamped = {};
    for (std::string* end : {&joint.a, &joint.b}) {
      if (end->empty()) continue;
      // Each joint has bodies of its own: nothing is asked of how many a body has.
      Body body;
      body.name = "b" + std::to_string(other.bodies.size());
      *end = body.name;
      other.bodies.push_back(std::move(body));
    }
    other.joints.push_back(std::move(joint));
  }
  return other;
}

void put_joints(ByteList& to, const Take& take) {
  put_number(to, static_cast<std::int64_t>(take.joints.size()));
  for (const JointTrack& track : take.joints) {
    for (const std::string& text : {track.joint.name, track.joint.a, track.joint.b}) put_text(to, text);
    put_number(to, track.first), put_number(to, track.end);
    track.rows.write(to);
  }
}

void take_joints(ByteView& from, Take& take, const Scene& joints) {
  const std::size_t count = take_length(from);
  if (count != joints.joints.size()) throw Error("take", "names joints that it does not hold");
  for (std::size_t i = 0; i < count; ++i) {
    JointTrack track;
    track.joint = joints.joints[i];
    for (std::string* text : {&track.joint.name, &track.joint.a, &track.joint.b}) *text = take_text_off(from);
    track.first = take_number_off(from), track.end = take_number_off(from);
    track.rows = PackedRows::read(from, joint_columns);
    take.joint_of[track.joint.name] = i;
    take.joints.push_back(std::move(track));
  }
}

void put_ends(ByteList& to, const JointEndsFrom& ends) {
  put_number(to, ends.tick), put_text(to, ends.a), put_text(to, ends.b);
  put_plain(to, ends.anchor_a), put_plain(to, ends.anchor_b);
}
JointEndsFrom take_ends(ByteView& from) {
  JointEndsFrom ends;
  ends.tick = take_number_off(from), ends.a = take_text_off(from), ends.b = take_text_off(from);
  ends.anchor_a = take_vector(from), ends.anchor_b = take_vector(from);
  return ends;
}

void put_numbers(ByteList& to, const Take& take) {
  put_number(to, static_cast<std::int64_t>(take.numbers.size()));
  for (const NumberTrack& track : take.numbers) {
    put_text(to, track.name), put_text(to, track.unit);
    put_number(to, track.first);
    track.rows.write(to);
  }
}

void take_numbers(ByteView& from, Take& take) {
  const std::size_t count = take_length(from);
  for (std::size_t i = 0; i < count; ++i) {
    NumberTrack track;
    track.name = take_text_off(from), track.unit = take_text_off(from);
    track.first = take_number_off(from);
    track.rows = PackedRows::read(from, number_columns);
    take.number_of[track.name] = i;
    take.numbers.push_back(std::move(track));
  }
}

// ---- the file

struct Database {
  explicit Database(const std::filesystem::path& path, int flags) : name(path.string()) {
    const int code = sqlite3_open_v2(path.c_str(), &handle, flags, nullptr);
    if (code == SQLITE_OK) return;
    const Error wrong = fault(code);
    sqlite3_close(handle);  // there is one even so
    throw wrong;
  }
  ~Database() { sqlite3_close(handle); }
  Database(const Database&) = delete;
  Database& operator=(const Database&) = delete;

  [[noreturn]] void fail(int code) const { throw fault(code); }
  Error fault(int code) const {
    std::string what = handle ? sqlite3_errmsg(handle) : sqlite3_errstr(code);
    std::string remedy;
    switch (code & 0xFF) {
      case SQLITE_FULL:
        what = "the disk is full";
        remedy = "make room, and save again";
        break;
      case SQLITE_NOTADB:
      case SQLITE_CORRUPT:
        what = "is no take, or was altered or cut short";
        break;
      case SQLITE_CANTOPEN:
        what = "can't be opened";
        remedy = "is it there, and may it be read?";
        break;
      default:
        break;
    }
    return {name, what, remedy};
  }
  void run(const char* sql) const {
    const int code = sqlite3_exec(handle, sql, nullptr, nullptr, nullptr);
    if (code != SQLITE_OK) fail(code);
  }

  std::string name;
  sqlite3* handle = nullptr;
};

// Frees a statement at the end of its block.
struct Statement {
  Statement(const Database& of, const char* sql) : database(of) {
    const int code = sqlite3_prepare_v2(of.handle, sql, -1, &handle, nullptr);
    if (code != SQLITE_OK) of.fail(code);
  }
  ~Statement() { sqlite3_finalize(handle); }
  Statement(const Statement&) = delete;
  Statement& operator=(const Statement&) = delete;
  bool row() const {
    const int code = sqlite3_step(handle);
    if (code == SQLITE_ROW) return true;
    if (code != SQLITE_DONE) database.fail(code);
    return false;
  }
  const Database& database;
  sqlite3_stmt* handle = nullptr;
};

// With a checksum, so that no altered byte goes unseen.
std::string packed_part(ByteView bytes) {
  const std::unique_ptr<ZSTD_CCtx, std::size_t (*)(ZSTD_CCtx*)> context(ZSTD_createCCtx(), ZSTD_freeCCtx);
  ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, effort);
  ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
  std::string text(ZSTD_compressBound(bytes.size()), '\0');
  const std::size_t size = ZSTD_compress2(context.get(), text.data(), text.size(), bytes.data(), bytes.size());
  if (ZSTD_isError(size) != 0) throw Error("take", std::string("can't be packed: ") + ZSTD_getErrorName(size));
  text.resize(size);
  return text;
}

class Parts {
 public:
  explicit Parts(const Database& database) : database_(database) {}
  void put(const std::string& name, ByteView bytes) const {
    std::size_t piece = 0;
    do {
      const std::size_t size = std::min(bytes.size(), bytes_a_piece);
      put_piece(piece_name(name, piece++), bytes.first(size));
      bytes = bytes.subspan(size);
    } while (!bytes.empty());
  }
  void put(const char* name, const std::string& text) const {
    put(name, ByteView(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
  }
  ByteList bytes(const std::string& name) const {
    ByteList bytes;
    std::size_t piece = 0;
    while (add_piece(piece_name(name, piece), bytes)) ++piece;
    if (piece == 0) altered();
    return bytes;
  }
  std::string text(const std::string& name) const {
    const ByteList all = bytes(name);
    return {all.begin(), all.end()};
  }
  [[noreturn]] void altered() const { throw Error(database_.name, "is no take, or was altered or cut short"); }

 private:
  static std::string piece_name(const std::string& part, std::size_t piece) {
    return piece == 0 ? part : part + "/" + std::to_string(piece);
  }
  void check(int code) const {
    if (code != SQLITE_OK) database_.fail(code);
  }
  void put_piece(const std::string& name, ByteView bytes) const {
    const std::string packed = packed_part(bytes);
    const Statement insert(database_, "INSERT INTO part (name, data) VALUES (?, ?)");
    check(sqlite3_bind_text(insert.handle, 1, name.c_str(), -1, SQLITE_STATIC));
    check(sqlite3_bind_blob64(insert.handle, 2, packed.data(), packed.size(), SQLITE_STATIC));
    while (insert.row()) {
    }
  }
  // False if there is no piece of that name.
  bool add_piece(const std::string& name, ByteList& bytes) const {
    const Statement select(database_, "SELECT data FROM part WHERE name = ?");
    check(sqlite3_bind_text(select.handle, 1, name.c_str(), -1, SQLITE_STATIC));
    if (!select.row()) return false;
    const void* data = sqlite3_column_blob(select.handle, 0);
    const auto size = static_cast<std::size_t>(sqlite3_column_bytes(select.handle, 0));
    if (!data) altered();
    const unsigned long long whole = ZSTD_getFrameContentSize(data, size);
    const std::size_t had = bytes.size();
    if (whole == ZSTD_CONTENTSIZE_UNKNOWN || whole == ZSTD_CONTENTSIZE_ERROR || whole > most_part_bytes - had)
      altered();
    bytes.resize(had + whole);
    const std::size_t got = ZSTD_decompress(bytes.data() + had, whole, data, size);
    if (ZSTD_isError(got) != 0 || got != whole) altered();
    return true;
  }

  const Database& database_;
};

std::string digest_text(std::uint64_t digest) {
  char text[32];
  std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(digest));
  return text;
}

void write_parts(const Database& database, const Take& take, const TakeLabel& label, int version) {
  const Parts parts(database);
  Json about{{"bronvel_take", version}, {"number", label.number},
             {"name", label.name},      {"note", label.note},
             {"pinned", label.pinned},  {"about", label.about},
             {"seed", take.seed},       {"ticks", take.ticks},
             {"full", take.full},       {"digest", take.digest ? digest_text(*take.digest) : ""}};
  parts.put("about", about.dump(-1, ' ', false, Json::error_handler_t::replace));
  parts.put("scene", write_scene(take.folder.scene));
  parts.put("scripts", Json(take.folder.scripts).dump(-1, ' ', false, Json::error_handler_t::replace));
  Json models = Json::object();
  for (const auto& [name, model] : take.folder.scene.models) models[name] = write_model(*model);
  parts.put("models", models.dump());
  parts.put("inputs", inputs_text(take.inputs));
  Scene settings = beside(take.folder.scene);
  ByteList bytes;
  put_bodies(bytes, take, settings);
  parts.put("bodies", bytes);
  parts.put("settings", write_scene(settings));
  bytes.clear();
  put_joints(bytes, take);
  parts.put("joints", bytes);
  parts.put("joint_settings", write_scene(for_joints(take)));
  bytes.clear();
  if (version >= first_with_ends) {
    for (const JointTrack& track : take.joints) put_list<JointEndsFrom>(bytes, track.ends, put_ends);
    parts.put("joint_ends", bytes);
    bytes.clear();
  }
  put_numbers(bytes, take);
  parts.put("numbers", bytes);
  bytes.clear();
  take.contacts.write(bytes);
  parts.put("contacts", bytes);
  bytes.clear();
  take.bonds.write(bytes);
  parts.put("bonds", bytes);
  bytes.clear();
  put_number(bytes, static_cast<std::int64_t>(take.zones.size()));
  for (const ZonesFrom& each : take.zones) {
    put_number(bytes, each.tick);
    Scene zones;
    zones.zones = each.zones;
    put_text(bytes, write_scene(zones));
  }
  parts.put("zones", bytes);
  bytes.clear();
  if (version >= first_with_moments) {
    for (const PlayEvent& event : take.events) put_plain(bytes, event.moment);
    parts.put("moments", bytes);
    bytes.clear();
  }
  if (version >= first_with_gravity) {
    put_list<GravityFrom>(bytes, take.gravity, put_gravity);
    parts.put("gravity", bytes);
    bytes.clear();
  }
  put_list<DrawnAt>(bytes, take.drawn, put_drawn);
  put_list<HandAt>(bytes, take.hand, put_hand);
  put_list<PlayEvent>(bytes, take.events, put_event);
  put_list<PlaySnap>(bytes, take.snaps, put_snap);
  put_list<PlayZoneEvent>(bytes, take.zone_events, put_zone_event);
  put_list<PlaySplash>(bytes, take.splashes, put_splash);
  put_list<PlayCrack>(bytes, take.cracks, put_crack);
  put_list<LogLine>(bytes, take.log, put_line);
  parts.put("events", bytes);
}

TakeLabel label_of(const Database& database, const Json& about) {
  const int version = about.at("bronvel_take").get<int>();
  if (version > take_version)
    throw Error(database.name,
                "is a take of a newer version of Bronvel (" + std::to_string(version) + ", this one reads " +
                    std::to_string(take_version) + ")",
                "open it with that version");
  return {about.at("number").get<int>(), about.at("name").get<std::string>(), about.at("note").get<std::string>(),
          about.at("pinned").get<bool>(), about.at("about").get<std::string>()};
}

// Whether all that was recorded lies within the take's ticks, so that no reader has to ask.
bool within_its_ticks(const Take& take, bool has_contacts) {
  if (take.ticks < 1 || take.ticks > most_ticks || (has_contacts && take.contacts.ticks() != take.ticks)) return false;
  const auto within = [&](const auto& tracks) {
    return std::all_of(tracks.begin(), tracks.end(), [&](const auto& track) {
      return track.first >= 0 && track.first <= take.ticks && track.rows.rows() <= take.ticks - track.first;
    });
  };
  return within(take.bodies) && within(take.joints) && within(take.numbers);
}

TakeFile read_parts(const Database& database) {
  const Parts parts(database);
  TakeFile file;
  Take& take = file.take;
  const std::string where = database.name + ": ";
  const Json about = Json::parse(parts.text("about"));
  file.label = label_of(database, about);
  take.seed = about.at("seed").get<std::uint64_t>();
  take.ticks = about.at("ticks").get<std::int64_t>();
  take.full = about.at("full").get<bool>();
  if (const auto text = about.at("digest").get<std::string>(); !text.empty())
    take.digest = std::stoull(text, nullptr, 16);
  Models models;
  const Json model_texts = Json::parse(parts.text("models"));
  for (const auto& [name, text] : model_texts.items())
    models[name] = std::make_shared<const Model>(read_model(text.get<std::string>(), where + name));
  take.folder.scene = read_scene(parts.text("scene"), where + "scene.json", models);
  take.folder.scripts = Json::parse(parts.text("scripts")).get<std::map<std::string, std::string>>();
  take.inputs = read_inputs(parts.text("inputs"), where + "inputs", take.tick_rate());
  const Scene settings = read_scene(parts.text("settings"), where + "settings", models);
  ByteList bytes = parts.bytes("bodies");
  ByteView from(bytes);
  take_bodies(from, take, settings);
  bytes = parts.bytes("joints");
  from = bytes;
  take_joints(from, take, read_scene(parts.text("joint_settings"), where + "joints"));
  if (about.at("bronvel_take").get<int>() >= first_with_ends) {
    bytes = parts.bytes("joint_ends");
    from = bytes;
    for (JointTrack& track : take.joints) track.ends = take_list<JointEndsFrom>(from, take_ends);
  }
  bytes = parts.bytes("numbers");
  from = bytes;
  take_numbers(from, take);
  if (about.at("bronvel_take").get<int>() >= first_with_contacts) {
    bytes = parts.bytes("contacts");
    from = bytes;
    take.contacts = ContactTrack::read(from);
  }
  if (about.at("bronvel_take").get<int>() >= first_with_bonds) {
    bytes = parts.bytes("bonds");
    from = bytes;
    take.bonds = BondTrack::read(from);
  }
  bytes = parts.bytes("zones");
  from = bytes;
  for (std::size_t left = take_length(from); left > 0; --left) {
    const std::int64_t tick = take_number_off(from);
    take.zones.push_back({tick, read_scene(take_text_off(from), where + "zones").zones});
  }
  if (about.at("bronvel_take").get<int>() >= first_with_gravity) {
    bytes = parts.bytes("gravity");
    from = bytes;
    take.gravity = take_list<GravityFrom>(from, take_gravity);
  }
  bytes = parts.bytes("events");
  from = bytes;
  take.drawn = take_list<DrawnAt>(from, about.at("bronvel_take").get<int>() >= 4 ? take_drawn : take_drawn_before_4);
  take.hand = take_list<HandAt>(from, take_hand);
  take.events = take_list<PlayEvent>(from, take_event);
  if (about.at("bronvel_take").get<int>() >= first_with_moments) {
    const ByteList moments = parts.bytes("moments");
    ByteView left(moments);
    for (PlayEvent& event : take.events) event.moment = take_double(left);
  } else {
    for (PlayEvent& event : take.events) event.moment = 1 / take.tick_rate();
  }
  take.snaps = take_list<PlaySnap>(from, take_snap);
  take.zone_events = take_list<PlayZoneEvent>(from, take_zone_event);
  take.splashes = take_list<PlaySplash>(from, take_splash);
  take.cracks = take_list<PlayCrack>(from, take_crack);
  take.log = take_list<LogLine>(from, take_line);
  if (!within_its_ticks(take, about.at("bronvel_take").get<int>() >= first_with_contacts)) parts.altered();
  return file;
}

}  // namespace

void save_take(const Take& take, const TakeLabel& label, const std::filesystem::path& file, int version) {
  const std::filesystem::path fresh = file.string() + ".new";
  std::error_code ignored;
  // What is no file, such as a device, would be gone once the fresh one has taken its place.
  if (std::filesystem::exists(file, ignored) && !std::filesystem::is_regular_file(file, ignored))
    throw Error(file.string(), "can't be written: it is no file", "name a file for the take");
  std::filesystem::remove(fresh, ignored);
  try {
    {
      const Database database(fresh, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
      // One writer, one file that nobody reads before it is whole.
      database.run("PRAGMA page_size = 1024; PRAGMA journal_mode = OFF; PRAGMA synchronous = FULL; BEGIN");
      database.run("CREATE TABLE part (name TEXT PRIMARY KEY, data BLOB NOT NULL)");
      write_parts(database, take, label, version);
      database.run("COMMIT");
    }
    std::filesystem::rename(fresh, file);
  } catch (const std::filesystem::filesystem_error& e) {
    std::filesystem::remove(fresh, ignored);
    throw Error(file.string(), "can't be written: " + e.code().message(),
                "is the folder there, and may it be written?");
  } catch (...) {
    std::filesystem::remove(fresh, ignored);
    throw;
  }
}

namespace {

template <class Read>
auto read_file_of_take(const std::filesystem::path& file, Read read) {
  std::error_code ignored;
  if (!std::filesystem::is_regular_file(file, ignored)) throw Error(file.string(), "is not there, or is no file");
  const Database database(file, SQLITE_OPEN_READONLY);
  try {
    return read(database);
  } catch (const Error&) {
    throw;
  } catch (const std::bad_alloc&) {
    throw Error(file.string(), "needs more memory than there is");
  } catch (const std::exception&) {
    throw Error(file.string(), "is no take, or was altered or cut short");
  }
}

}  // namespace

TakeFile open_take(const std::filesystem::path& file) {
  return read_file_of_take(file, read_parts);
}

TakeLabel read_take_label(const std::filesystem::path& file) {
  return read_file_of_take(
      file, [](const Database& database) { return label_of(database, Json::parse(Parts(database).text("about"))); });
}

std::string take_summary(const TakeFile& file) {
  const Take& take = file.take;
  std::ostringstream out;
  out << "take " << file.label.number << (file.label.name.empty() ? "" : ", " + file.label.name) << " of "
      << take.folder.scene.name << ": " << number_text(take.seconds()) << " s at " << number_text(take.tick_rate())
      << " Hz, seed " << take.seed << "\n";
  if (!file.label.note.empty()) out << "  " << file.label.note << "\n";
  if (!file.label.about.empty()) out << "  " << file.label.about << "\n";
  if (take.full) out << "  the memory for takes was used up: what came after is not in it\n";
  out << "  " << take.bodies.size() << " bodies, " << take.joints.size() << " joints, " << take.inputs.size()
      << " inputs, " << take.events.size() << " touches and partings, " << take.log.size() << " lines\n";
  if (take.digest) out << "  digest " << digest_text(*take.digest) << "\n";
  for (const NumberTrack& number : take.numbers) out << "  " << number.name << "\n";
  return out.str();
}

std::string take_summary_json(const TakeFile& file) {
  const Take& take = file.take;
  Json json{{"number", file.label.number},
            {"name", file.label.name},
            {"note", file.label.note},
            {"about", file.label.about},
            {"pinned", file.label.pinned},
            {"scene", take.folder.scene.name},
            {"seed", take.seed},
            {"tick_rate", take.tick_rate()},
            {"ticks", take.ticks},
            {"seconds", take.seconds()},
            {"full", take.full},
            {"digest", take.digest ? Json(digest_text(*take.digest)) : Json()},
            {"inputs", take.inputs.size()},
            {"touches_and_partings", take.events.size()},
            {"lines", take.log.size()},
            {"bodies", Json::array()},
            {"joints", Json::array()},
            {"numbers", Json::array()}};
  for (const BodyTrack& track : take.bodies)
    json["bodies"].push_back(
        {{"name", track.name}, {"first", track.first}, {"end", track.end < 0 ? take.ticks : track.end}});
  for (const JointTrack& track : take.joints)
    json["joints"].push_back(
        {{"name", track.joint.name}, {"first", track.first}, {"end", track.end < 0 ? take.ticks : track.end}});
  for (const NumberTrack& track : take.numbers) json["numbers"].push_back(track.name);
  return json_text(json);
}

}  // namespace bronvel
