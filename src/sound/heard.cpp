// Blows, slides, splashes, cracks and scripts' sounds of a tick.
#include "sound/heard.h"

#include <algorithm>
#include <cmath>

#include "geometry/base/random.h"
#include "scene/document/voice.h"

namespace bronvel {
namespace {

constexpr double slowest_heard = 0.02;  // m/s, of sliding and rolling

// The same for the same text, on every machine (Fowler, Noll and Vo, FNV-1a).
std::uint64_t number_of(const std::string& text) {
  std::uint64_t hash = 0xCBF29CE484222325ULL;
  for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001B3ULL;
  return hash;
}

double smallest_size(const Shape& shape) {
  const Bounds bounds = shape_bounds(shape, Pose{});
  return std::max((bounds.high - bounds.low).minCoeff(), 1e-3);
}

// Louder by impulse; what merely settles is not heard.
double loudness_of(const PlayEvent& event) {
  constexpr double half = 50;                        // N·s
  constexpr double silent_below = 0.03, full = 0.3;  // m/s
  return std::pow(event.impulse / (event.impulse + half), 0.6) *
         std::clamp((event.speed - silent_below) / full, 0.0, 1.0);
}

double slid_loudness(const Rubbing& r) {
  if (r.slip < slowest_heard) return 0;
  constexpr double half = 150;  // W
  const double power = r.across * r.slip;
  return 0.35 * std::sqrt(power / (power + half));
}

double rolled_loudness(const Rubbing& r) {
  constexpr double half = 4000;  // W
  if (r.travel < slowest_heard) return 0;
  const double press = r.along * r.travel;
  return r.slip < 0.3 * r.travel ? 0.12 * std::sqrt(press / (press + half)) : 0;
}

// Those of `all` that `loudness` finds the loudest, loudest first; of as loud ones the earlier.
template <class Item, class Loudness>
std::vector<const Item*> loudest(std::span<const Item> all, std::size_t most, const Loudness& loudness) {
  std::vector<std::pair<double, const Item*>> found;
  constexpr double heard_from = 2e-3;
  for (const Item& item : all)
    if (const double loud = loudness(item); loud >= heard_from) found.emplace_back(loud, &item);
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<const Item*> kept;
  for (std::size_t i = 0; i < std::min(most, found.size()); ++i) kept.push_back(found[i].second);
  return kept;
}

class Hearing {
 public:
  explicit Hearing(const TickSource& source) : s_(source) {}

  Heard all() {
    // What is too quiet among many is left out before it is looked at.
    for (const PlayEvent* event : loudest(s_.events, most_onsets, [](const PlayEvent& e) {
           return e.phase == ContactPhase::touch ? loudness_of(e) : 0;
         }))
      blow(*event);
    for (const PlaySplash& splash : s_.splashes) water(splash);
    for (const PlayCrack& crack : s_.cracks) broken(crack);
    for (const Drawn& drawn : s_.drawn)
      if (drawn.kind == Drawn::Kind::sound) asked(drawn);
    for (const Rubbing* rubbing : loudest(
             s_.rubbing, most_slides, [](const Rubbing& r) { return std::max(slid_loudness(r), rolled_loudness(r)); }))
      rub(*rubbing);
    std::stable_sort(heard_.onsets.begin(), heard_.onsets.end(),
                     [](const Onset& a, const Onset& b) { return a.loudness > b.loudness; });
    if (heard_.onsets.size() > most_onsets) heard_.onsets.resize(most_onsets);
    return std::move(heard_);
  }

 private:
  std::string voice(const Body& body) const { return voice_of(*s_.scene, body.surface); }

  // What differs from blow to blow, the same whenever the take is heard again.
  Random chance(const std::string& a, const std::string& b) const {
    return Random(s_.seed ^ (static_cast<std::uint64_t>(s_.tick) * 0x9E3779B97F4A7C15ULL) ^ number_of(a) ^
                  (number_of(b) << 1));
  }

  void add(Onset onset, const Body& body, Random& random) {
    const auto surface = s_.scene->surfaces.find(body.surface);
    const SceneSurface usual;
    const SceneSurface& spread = surface == s_.scene->surfaces.end() ? usual : surface->second;
    onset.pitch *= 1 + spread.pitch_spread * random.between(-1, 1);
    onset.loudness = std::clamp(onset.loudness * (1 + spread.loudness_spread * random.between(-1, 1)), 0.0, 1.0);
    onset.chance = random.bits();
    onset.tick = s_.tick;
    heard_.onsets.push_back(std::move(onset));
  }

  void blow(const PlayEvent& event) {
    const Body *a = s_.body(event.a), *b = s_.body(event.b);
    if (!a || !b || !a->solid || !b->solid) return;
    const std::string voice_a = voice(*a), voice_b = voice(*b);
    const bool a_lighter = b->kind != MotionKind::dynamic || (a->kind == MotionKind::dynamic && a->mass < b->mass);
    const Body& light = a_lighter ? *a : *b;
    const double time =
        contact_time(stuff_of(voice_a), stuff_of(voice_b), light.mass, 0.5 * smallest_size(light.shape), event.speed);
    Random random = chance(event.a, event.b);
    for (const bool of_a : {true, false}) {
      const Body& body = of_a ? *a : *b;
      if (body.silent) continue;
      Onset onset;
      onset.point = event.point;
      onset.contact = time;
      onset.ring = ring_of(body.shape, of_a ? voice_a : voice_b);
      constexpr double still_share = 0.4;  // what stands on the ground is held by it
      onset.loudness = loudness_of(event) * (body.kind == MotionKind::dynamic ? 1 : still_share);
      add(std::move(onset), body, random);
    }
  }

  void water(const PlaySplash& splash) {
    const Body* body = s_.body(splash.body);
    if (!body || body->silent) return;
    Random random = chance(splash.body, splash.zone);
    Onset onset;
    onset.kind = Onset::Kind::splash;
    onset.point = splash.point;
    onset.size = std::cbrt(std::max(shape_volume(body->shape), 1e-9));
    constexpr double half = 2;  // m/s of a cubic metre
    const double strength = splash.speed * onset.size * (splash.into ? 1 : 0.4);
    onset.loudness = strength / (strength + half);
    add(std::move(onset), *body, random);
  }

  void broken(const PlayCrack& crack) {
    const Body* body = s_.body(crack.body);
    if (!body || body->silent) return;
    Random random = chance(crack.body, "crack");
    Onset onset;
    onset.point = crack.point;
    onset.contact = 1e-4;
    onset.ring = ring_of(body->shape, voice(*body));
    onset.ring.knock = std::max(onset.ring.knock, 0.7);
    onset.pitch = 1.6;
    const double bonds = static_cast<double>(crack.bonds);
    onset.loudness = std::sqrt(bonds / (bonds + 6));
    add(std::move(onset), *body, random);
  }

  void asked(const Drawn& drawn) {
    Onset onset;
    onset.tick = s_.tick;
    onset.point = drawn.from;
    onset.pitch = drawn.pitch;
    onset.loudness = std::clamp(drawn.size, 0.0, 1.0);
    onset.name = drawn.text;
    onset.chance = chance(drawn.body, drawn.text).bits();
    if (onset.loudness <= 0) return;
    if (s_.has_file && s_.has_file(drawn.text)) {
      onset.kind = Onset::Kind::recorded;
    } else {
      const Body* body = s_.body(drawn.body);
      const Body unknown;
      const Body& of = body ? *body : unknown;
      onset.ring = ring_of(of.shape, is_voice(drawn.text) ? drawn.text : voice(of));
      onset.contact = 5e-4;
    }
    heard_.onsets.push_back(std::move(onset));
  }

  void rub(const Rubbing& r) {
    const Body *a = s_.body(r.a), *b = s_.body(r.b);
    if (!a || !b || (a->silent && b->silent)) return;
    Slide slide;
    slide.pair = number_of(r.a) ^ number_of(r.b);  // whichever is named first
    slide.point = r.point;
    const double slid = slid_loudness(r), rolled = rolled_loudness(r);
    slide.loudness = std::max(slid, rolled);
    const double wave_speed = std::sqrt(stuff_of(voice(*a)).wave_speed * stuff_of(voice(*b)).wave_speed);
    const double own = rolled > slid ? 60 + 40 * r.travel : 150 + 250 * r.slip;
    slide.brightness = std::clamp(own * (0.4 + wave_speed / 3500), 40.0, 6000.0);
    heard_.slides.push_back(slide);
  }

  const TickSource& s_;
  Heard heard_;
};

Vec3 velocity_at(const BodyMotion& motion, const Vec3& point) {
  return motion.velocity + motion.angular_velocity.cross(point - motion.pose.position);
}

}  // namespace

Rubbing rubbing_of(const ContactPlace& place, const BodyMotion& a, const BodyMotion& b) {
  Rubbing r;
  r.point = place.point;
  r.along = place.along;
  r.across = place.across;
  const auto across = [&](const Vec3& v) { return Vec3(v - place.normal * v.dot(place.normal)); };
  r.slip = across(velocity_at(a, place.point) - velocity_at(b, place.point)).norm();
  r.travel = across(a.velocity - b.velocity).norm();
  return r;
}

Heard hear(const TickSource& source) {
  return Hearing(source).all();
}

Heard hear(const Play& play, const std::function<bool(const std::string&)>& has_file) {
  const RunningScene& running = play.running();
  const World& world = running.world;
  std::vector<Rubbing> rubbing;
  const double rate = world.settings().tick_rate;
  for (const ContactEvent& contact : world.contacts()) {
    if (contact.phase == ContactPhase::part || contact.points.empty()) continue;
    if (!world.alive(contact.a) || !world.alive(contact.b)) continue;
    const ContactPlace place{contact.points.front(), contact.normal, contact.normal_impulse * rate,
                             contact.friction_impulse * rate};
    Rubbing r = rubbing_of(place, world.motion(contact.a), world.motion(contact.b));
    if (r.slip < slowest_heard && r.travel < slowest_heard) continue;
    r.a = running.name_of(contact.a);
    r.b = running.name_of(contact.b);
    rubbing.push_back(std::move(r));
  }
  TickSource source;
  source.scene = &running.scene;
  source.seed = play.seed();
  source.tick = play.tick();
  source.events = play.events();
  source.splashes = play.splashes();
  source.cracks = play.cracks();
  source.drawn = play.drawn();
  source.rubbing = rubbing;
  source.body = [&](const std::string& name) -> const Body* {
    const auto body = running.find(name);
    return body ? running.body_of(*body) : nullptr;
  };
  source.has_file = has_file;
  return hear(source);
}

}  // namespace bronvel
