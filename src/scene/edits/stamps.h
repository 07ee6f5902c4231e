// Stamps: reusable assemblies, their copies in the scene, and how a copy differs.
#pragma once

#include "scene/edits/edits.h"

namespace bronvel {

/// Makes the bodies, and the joints among them and to the scene, a stamp; they become its first copy. Its frame stands
/// upright under their middle, at their lowest point. Throws Error when there are none, or the name is bad or taken.
void make_stamp(Scene& scene, const BodyNames& names, const std::string& stamp);

/// Another copy of it, its frame at `pose`; gives the names of its bodies. Throws Error when there is no such stamp.
BodyNames place_stamp(Scene& scene, const std::string& stamp, const Pose& pose);

/// "davit_3": what no placed stamp is called yet.
std::string fresh_copy_name(const Scene& scene, const std::string& stamp);

/// The same bodies and joints without putting them into a scene: for showing where they would land.
std::vector<Body> stamp_bodies(const Stamp& stamp, const Pose& pose);

/// A joint of the stamp as it stands in the scene: what is given in the stamp's frame is taken along.
void carry(SceneJoint& joint, const Pose& frame);

/// Where a copy differs from its stamp.
struct StampDifference {
  std::string body;            ///< in the scene; "" for a part that the copy lacks
  std::string part;            ///< in the stamp; "" for a body that the stamp lacks
  std::string aspect;          ///< of aspects(), or "place"; "" when a part is lacking
  std::string label;           ///< "mass"
  std::string here, in_stamp;  ///< the two values, short
};
std::vector<StampDifference> stamp_differences(const Scene& scene, const std::string& copy);

/// Makes the copy as the stamp says in this one thing.
void take_stamps_value(Scene& scene, const std::string& copy, const StampDifference& difference);
/// Makes the stamp as the copy says, and with it every copy that was as the stamp was.
void give_to_stamp(Scene& scene, const std::string& copy, const StampDifference& difference);

/// The frame of a copy, from the first of its parts that still stands as it should to it.
Pose copy_frame(const Scene& scene, const std::string& copy);

/// The bodies of the copy stay, but belong to no stamp any more.
void free_copy(Scene& scene, const std::string& copy);
/// Its copies become free.
void remove_stamp(Scene& scene, const std::string& stamp);

}  // namespace bronvel
