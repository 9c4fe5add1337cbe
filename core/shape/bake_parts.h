// The methods of bake.cpp. Inner part of shape/.
#pragma once

#include "shape/bake.h"
#include "shape/varispeed.h"

namespace tuvvo {

/// @param out  two channels of the result's length, silent
void bakeRespaced(const Varispeed& player, const BakeRecipe& recipe, Channels& out);
/// @returns false when the job was cancelled
bool bakeStretched(const Varispeed& player, const BakeRecipe& recipe, Channels& out,
                   JobContext& job);

} // namespace tuvvo
