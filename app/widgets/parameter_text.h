// What a parameter is called in the window.
#pragma once

#include "model/parameter.h"
#include "widgets/slide.h"

namespace tuvvo {

/// Translated, where there is a translation.
[[nodiscard]] QString nameOf(const Parameter& parameter);
[[nodiscard]] QString unitOf(const Parameter& parameter);
/// What it does, in a sentence; empty where there is none.
[[nodiscard]] QString aboutOf(const Parameter& parameter);
[[nodiscard]] QStringList wordsOf(const Parameter& parameter);
[[nodiscard]] Slide::Range rangeOf(const Parameter& parameter);
/// A slide for it with its sentence as a tip. A controller knows it by the parameter's id.
/// @param of  what the id stands under: "part." for one of a part's bus
[[nodiscard]] Slide* slideFor(const Parameter& parameter, QWidget* parent, const QString& of = {});

} // namespace tuvvo
