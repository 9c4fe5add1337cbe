// What a parameter is called in the window.
#pragma once

#include "model/parameter.h"
#include "widgets/slide.h"

namespace tuvvo {

/// Translated, where there is a translation.
[[nodiscard]] QString nameOf(const Parameter& parameter);
[[nodiscard]] QString unitOf(const Parameter& parameter);
[[nodiscard]] Slide::Range rangeOf(const Parameter& parameter);
/// A slide for it, which a controller knows by the parameter's id.
[[nodiscard]] Slide* slideFor(const Parameter& parameter, QWidget* parent);

} // namespace tuvvo
