// The demo scene, as the tests of plays start from it.
#pragma once

#include "folders.h"
#include "scene/files/folder.h"

namespace bronvel {

inline SceneFolder demo() {
  return open_folder(in_checkout("/examples/skerrow-quay"));
}

}  // namespace bronvel
