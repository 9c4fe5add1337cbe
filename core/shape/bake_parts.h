// The methods of bake.cpp. Inner part of shape/.
#pragma once

#include "shape/bake.h"
#include "shape/player.h"

namespace tuvvo {

/// @param out  two channels of the result's length, silent
void bakeRespaced(const Player& player, const BakeRecipe& recipe, Channels& out);
/// @returns false when the job was cancelled
bool bakeStretched(const Player& player, const BakeRecipe& recipe, Channels& out, JobContext& job);

} // namespace tuvvo
