// What scripts drew, zones, paths and the hands' lines, over the stage's picture.
#pragma once

#include "app/session/session.h"
#include "app/stage/pencil.h"

namespace bronvel {

/// An arrow of a hand that is being drawn, or the line of what it holds.
struct HandLine {
  Vec3 from = Vec3::Zero(), to = Vec3::Zero();
  QString text;
  bool arrow = false;
  bool blade = false;          ///< of the knife
  std::vector<Vec3> flight{};  ///< of a flick: where it will fly, m
};

/// Where a body flies from there, free of all but gravity, a point every 0.05 s, until it meets another or 2 s are
/// over.
std::vector<Vec3> free_flight(const std::vector<BodyView>& bodies, const std::string& body, const Vec3& from,
                              const Vec3& velocity, const Vec3& gravity);

void draw_over_stage(Pencil& pencil, const Session& session, const std::optional<HandLine>& hand);

/// Where a zone's name stands, m, and how far from there, pixels.
Vec3 zone_label_place(const Pencil& pencil, const SceneZone& zone);
inline const QPointF zone_label_shift{4, -6};

}  // namespace bronvel
