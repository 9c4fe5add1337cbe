// Places and lengths of recordings as people read them.
#pragma once

#include "base/units.h"

#include <QString>

namespace tuvvo {

/// "1:23.4"; "1:23" without the tenths.
[[nodiscard]] QString clockText(Seconds at, bool tenths = true);

} // namespace tuvvo
