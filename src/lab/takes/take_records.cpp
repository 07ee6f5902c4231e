// What happened, as bytes.
#include "lab/takes/take_records.h"

namespace bronvel {

void put_event(ByteList& to, const PlayEvent& e) {
  put_number(to, e.tick);
  put_number(to, static_cast<int>(e.phase));
  put_text(to, e.a), put_text(to, e.b);
  put_plain(to, e.point), put_plain(to, e.normal);
  for (const double x : {e.speed, e.impulse, e.across}) put_plain(to, x);
  put_number(to, e.points);
  for (const double x :
       {e.surface.static_friction, e.surface.dynamic_friction, e.surface.rolling_friction, e.surface.restitution})
    put_plain(to, x);
  put_number(to, static_cast<int>(e.surface.friction_rule));
  put_number(to, static_cast<int>(e.surface.restitution_rule));
}

PlayEvent take_event(ByteView& from) {
  PlayEvent e;
  e.tick = take_number_off(from);
  e.phase = take_word<ContactPhase>(from, 2);
  e.a = take_text_off(from), e.b = take_text_off(from);
  e.point = take_vector(from), e.normal = take_vector(from);
  for (double* x : {&e.speed, &e.impulse, &e.across}) *x = take_double(from);
  e.points = static_cast<int>(take_number_off(from));
  for (double* x :
       {&e.surface.static_friction, &e.surface.dynamic_friction, &e.surface.rolling_friction, &e.surface.restitution})
    *x = take_double(from);
  e.surface.friction_rule = take_word<Combine>(from, 3);
  e.surface.restitution_rule = take_word<Combine>(from, 3);
  return e;
}

void put_snap(ByteList& to, const PlaySnap& s) {
  put_number(to, s.tick);
  put_text(to, s.joint), put_text(to, s.a), put_text(to, s.b);
  put_plain(to, s.force), put_plain(to, s.torque);
}
PlaySnap take_snap(ByteView& from) {
  PlaySnap s;
  s.tick = take_number_off(from);
  for (std::string* text : {&s.joint, &s.a, &s.b}) *text = take_text_off(from);
  s.force = take_double(from), s.torque = take_double(from);
  return s;
}

void put_zone_event(ByteList& to, const PlayZoneEvent& z) {
  put_number(to, z.tick);
  put_number(to, z.entered ? 1 : 0);
  put_text(to, z.zone), put_text(to, z.body);
}
PlayZoneEvent take_zone_event(ByteView& from) {
  PlayZoneEvent z;
  z.tick = take_number_off(from);
  z.entered = take_number_off(from) != 0;
  z.zone = take_text_off(from), z.body = take_text_off(from);
  return z;
}

void put_splash(ByteList& to, const PlaySplash& s) {
  put_number(to, s.tick);
  put_number(to, s.into ? 1 : 0);
  put_text(to, s.zone), put_text(to, s.body);
  put_plain(to, s.speed), put_plain(to, s.volume), put_plain(to, s.point);
}
PlaySplash take_splash(ByteView& from) {
  PlaySplash s;
  s.tick = take_number_off(from);
  s.into = take_number_off(from) != 0;
  s.zone = take_text_off(from), s.body = take_text_off(from);
  s.speed = take_double(from), s.volume = take_double(from), s.point = take_vector(from);
  return s;
}

void put_crack(ByteList& to, const PlayCrack& c) {
  put_number(to, c.tick);
  put_text(to, c.body);
  put_list<std::string>(to, c.parts, put_text);
  put_number(to, static_cast<std::int64_t>(c.bonds));
  put_plain(to, c.point), put_plain(to, c.use);
}
PlayCrack take_crack(ByteView& from) {
  PlayCrack c;
  c.tick = take_number_off(from);
  c.body = take_text_off(from);
  c.parts = take_list<std::string>(from, take_text_off);
  c.bonds = static_cast<std::size_t>(take_number_off(from));
  c.point = take_vector(from), c.use = take_double(from);
  return c;
}

void put_line(ByteList& to, const LogLine& l) {
  put_number(to, static_cast<int>(l.level));
  put_number(to, l.tick);
  put_text(to, l.body), put_text(to, l.script);
  put_number(to, l.line);
  put_text(to, l.text);
}
LogLine take_line(ByteView& from) {
  LogLine l;
  l.level = take_word<LogLevel>(from, 2);
  l.tick = take_number_off(from);
  l.body = take_text_off(from), l.script = take_text_off(from);
  l.line = static_cast<int>(take_number_off(from));
  l.text = take_text_off(from);
  return l;
}

namespace {

void put_one_drawn(ByteList& to, const Drawn& d) {
  put_number(to, static_cast<int>(d.kind));
  put_plain(to, d.from), put_plain(to, d.along), put_plain(to, d.size);
  put_text(to, d.text);
  if (d.kind == Drawn::Kind::sound) put_plain(to, d.pitch), put_text(to, d.body);
}
Drawn take_one_before_4(ByteView& from) {
  Drawn d;
  d.kind = take_word<Drawn::Kind>(from, 3);
  d.from = take_vector(from), d.along = take_vector(from), d.size = take_double(from);
  d.text = take_text_off(from);
  return d;
}
Drawn take_one_drawn(ByteView& from) {
  Drawn d = take_one_before_4(from);
  if (d.kind == Drawn::Kind::sound) d.pitch = take_double(from), d.body = take_text_off(from);
  return d;
}

}  // namespace

void put_drawn(ByteList& to, const DrawnAt& d) {
  put_number(to, d.tick);
  put_list<Drawn>(to, d.drawn, put_one_drawn);
}
DrawnAt take_drawn(ByteView& from) {
  DrawnAt d;
  d.tick = take_number_off(from);
  d.drawn = take_list<Drawn>(from, take_one_drawn);
  return d;
}
DrawnAt take_drawn_before_4(ByteView& from) {
  DrawnAt d;
  d.tick = take_number_off(from);
  d.drawn = take_list<Drawn>(from, take_one_before_4);
  return d;
}

void put_gravity(ByteList& to, const GravityFrom& g) {
  put_number(to, g.tick);
  put_plain(to, g.gravity);
}
GravityFrom take_gravity(ByteView& from) {
  GravityFrom g;
  g.tick = take_number_off(from);
  g.gravity = take_vector(from);
  return g;
}

void put_hand(ByteList& to, const HandAt& h) {
  put_number(to, h.tick);
  put_text(to, h.hand.body);
  put_plain(to, h.hand.from), put_plain(to, h.hand.to);
}
HandAt take_hand(ByteView& from) {
  HandAt h;
  h.tick = take_number_off(from);
  h.hand.body = take_text_off(from);
  h.hand.from = take_vector(from), h.hand.to = take_vector(from);
  return h;
}

}  // namespace bronvel
