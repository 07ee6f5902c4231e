// The one file that knows the checkout's place, so that all others compile to the same in every checkout.
#include "app/session/folders.h"

namespace bronvel {

std::string examples_folder() {
  return BRONVEL_TOP "/examples";
}

std::string recipes_folder() {
  return BRONVEL_TOP "/recipes";
}

}  // namespace bronvel
