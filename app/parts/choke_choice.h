// The choke letter of a key, to choose from.
#pragma once

#include "widgets/combo.h"

namespace tuvvo {

/// None first, then a to h: the index is the key's choke group.
[[nodiscard]] Combo* chokeChoice(const QString& tip, QWidget* parent);

} // namespace tuvvo
