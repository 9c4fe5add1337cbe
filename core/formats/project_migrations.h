// Projects of earlier versions, brought to the newest. Inner part of formats/.
#pragma once

#include "formats/migrations.h"

namespace tuvvo {

inline constexpr int kNewestProject = 2; ///< the schema that is written now

/// Brings a whole project file to the newest schema; a newer one stays as it is.
///
/// 1: the words of the first versions (pins, papers, made, pull, lean, loosen, hushed, resting,
///    school), one swing a lane, one permission a source, beats a bar instead of a meter.
/// 2: the words of the field.
void bringProjectUp(json_read::Json& file);

} // namespace tuvvo
