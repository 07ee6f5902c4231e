// What happened in a take (events, lines, drawings, the hand), as bytes and back.
#pragma once

#include "lab/takes/take.h"
#include "lab/tracks/plain_bytes.h"

namespace bronvel {

// Those that take something off throw Error where it is not what was put.
void put_event(ByteList& to, const PlayEvent& event);
PlayEvent take_event(ByteView& from);
void put_snap(ByteList& to, const PlaySnap& snap);
PlaySnap take_snap(ByteView& from);
void put_zone_event(ByteList& to, const PlayZoneEvent& zone_event);
PlayZoneEvent take_zone_event(ByteView& from);
void put_splash(ByteList& to, const PlaySplash& splash);
PlaySplash take_splash(ByteView& from);
void put_crack(ByteList& to, const PlayCrack& crack);
PlayCrack take_crack(ByteView& from);
void put_line(ByteList& to, const LogLine& line);
LogLine take_line(ByteView& from);
void put_drawn(ByteList& to, const DrawnAt& drawn);
DrawnAt take_drawn(ByteView& from);
DrawnAt take_drawn_before_4(ByteView& from);  ///< of files before version 4, whose sounds had no pitch
void put_gravity(ByteList& to, const GravityFrom& gravity);
GravityFrom take_gravity(ByteView& from);
void put_hand(ByteList& to, const HandAt& hand);
HandAt take_hand(ByteView& from);

}  // namespace bronvel
