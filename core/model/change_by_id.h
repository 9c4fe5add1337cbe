// Inner part of model/.
#pragma once

#include "model/project.h"

namespace tuvvo {

template <class Things, class Change> void changeById(Things& things, Id id, const Change& change) {
  for (auto& thing : things)
    if (thing.id == id) change(thing);
}

} // namespace tuvvo
