// Making a set of pieces.
#include "dynamics/settings/piece_set.h"

namespace bronvel {

std::shared_ptr<const PieceSet> make_piece_set(std::vector<Hull> pieces, std::vector<char> anchored,
                                               std::vector<double> densities, double gap) {
  auto set = std::make_shared<PieceSet>();
  set->faces = shared_faces(pieces, gap);
  set->anchored = std::move(anchored);
  set->anchored.resize(pieces.size(), 0);
  set->pieces = std::move(pieces);
  set->densities = std::move(densities);
  set->densities.resize(set->pieces.size(), 1.0);
  for (std::uint32_t i = 0; i < set->pieces.size(); ++i) set->weight += set->weight_of(i);
  return set;
}

}  // namespace bronvel
