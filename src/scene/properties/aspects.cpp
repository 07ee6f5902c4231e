// The list of aspects.
#include "scene/properties/aspects.h"

#include <sstream>

#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

std::string short_text(double x) {
  std::ostringstream out;
  out.precision(4);
  out << x;
  return out.str();
}

std::string listed(const std::vector<std::string>& names) {
  std::string all;
  for (const std::string& name : names) all += (all.empty() ? "" : ", ") + name;
  return all.empty() ? "none" : all;
}

template <class Field>
Aspect field_aspect(const char* name, const char* label, const char* group, Field Body::*field,
                    std::function<std::string(const Body&)> text) {
  return {name,
          label,
          group,
          [field](const Body& a, const Body& b) { return a.*field == b.*field; },
          [field](Body& to, const Body& from) { to.*field = from.*field; },
          std::move(text)};
}

std::vector<Aspect> make_aspects() {
  std::vector<Aspect> all;
  for (const Property& p : body_properties()) {
    if (p.name == "position" || p.name == "orientation") continue;
    all.push_back({p.name, p.label, p.group,
                   [&p](const Body& a, const Body& b) { return same_value(p.get(a), p.get(b)); },
                   [&p](Body& to, const Body& from) { p.set(to, p.get(from)); },
                   [&p](const Body& b) {
                     const Value v = p.get(b);
                     const auto* x = std::get_if<double>(&v);
                     return (x ? short_text(*x) : value_text(v)) + (p.unit.empty() ? "" : " " + p.unit);
                   }});
  }
  constexpr const char* what = "What is it?";
  // A shape and how it looks belong together.
  all.push_back({"shape", "shape", what,
                 [](const Body& a, const Body& b) { return a.shape == b.shape && a.looks == b.looks; },
                 [](Body& to, const Body& from) {
                   to.shape = from.shape;
                   to.looks = from.looks;
                 },
                 [](const Body& b) { return shape_text(b.shape); }});
  all.push_back(field_aspect("colour", "colour", what, &Body::colour, [](const Body& b) { return b.colour; }));
  all.push_back(field_aspect("tags", "tags", what, &Body::tags, [](const Body& b) { return listed(b.tags); }));
  all.push_back(field_aspect("scripts", "scripts and dials", what, &Body::scripts, [](const Body& b) {
    std::vector<std::string> files;
    files.reserve(b.scripts.size());
    for (const ScriptUse& use : b.scripts) files.push_back(use.file);
    return listed(files);
  }));
  constexpr const char* meets = "How does it meet others?";
  all.push_back(field_aspect("groups", "groups", meets, &Body::groups, [](const Body& b) { return listed(b.groups); }));
  all.push_back(field_aspect("meets", "meets", meets, &Body::meets, [](const Body& b) { return listed(b.meets); }));
  return all;
}

}  // namespace

std::span<const Aspect> aspects() {
  static const std::vector<Aspect> all = make_aspects();
  return all;
}

const Aspect* find_aspect(const std::string& name) {
  for (const Aspect& each : aspects())
    if (each.name == name) return &each;
  return nullptr;
}

std::string shape_text(const Shape& shape) {
  const std::string word = shape_word(shape);
  const auto round = [&](double radius, double along) {
    return word + " ⌀ " + short_text(2 * radius) + " × " + short_text(along) + " m";
  };
  if (const auto* s = std::get_if<Sphere>(&shape)) return word + " ⌀ " + short_text(2 * s->radius) + " m";
  if (const auto* b = std::get_if<Box>(&shape))
    return word + " " + short_text(b->size.x()) + " × " + short_text(b->size.y()) + " × " + short_text(b->size.z()) +
           " m";
  if (const auto* c = std::get_if<Capsule>(&shape)) return round(c->radius, c->length + 2 * c->radius);
  if (const auto* c = std::get_if<Cylinder>(&shape)) return round(c->radius, c->height);
  if (const auto* c = std::get_if<Cone>(&shape)) return round(c->radius, c->height);
  if (const auto* h = std::get_if<Hull>(&shape)) return word + " of " + std::to_string(h->data->corners.size());
  if (const auto* c = std::get_if<Compound>(&shape)) return word + " of " + std::to_string(c->data->parts.size());
  if (const auto* m = std::get_if<Mesh>(&shape)) return word + " of " + std::to_string(m->data->triangles.size());
  return word == "height_field" ? "height field" : word;
}

}  // namespace bronvel
