// What can be done to the scripts that bodies carry, as plain functions from scene to scene.
#pragma once

#include <string>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// Actions that the script's text says it needs, one a line: "-- needs action: steer (d / a)". Keys that are none of
/// `key_names()` are left out.
std::vector<Action> needed_actions(const std::string& text);

/// Adds those of the actions that the scene lacks.
void add_actions(Scene& scene, const std::vector<Action>& needed);

/// On the body, after those it has; does nothing if there is no such body.
void put_script(Scene& scene, const std::string& file, const std::string& body);
/// Off the body, each time that it has it.
void take_script(Scene& scene, const std::string& file, const std::string& body);
/// The body's own setting of a dial of its script; does nothing if it does not carry the script.
void turn_dial(Scene& scene, const std::string& body, const std::string& script, const std::string& dial,
               const DialValue& value);

}  // namespace bronvel
