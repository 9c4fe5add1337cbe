// What is known of a source, in words.
#pragma once

#include "model/project.h"

#include <QString>

namespace tuvvo {

/// "92.10 BPM", "no tempo"; marked when a person corrected it.
[[nodiscard]] QString tempoText(const Source& source);
[[nodiscard]] QString keyText(const Source& source);
[[nodiscard]] QString lengthText(Seconds duration);
/// "one-shot", "break" … for people, in their language.
[[nodiscard]] QString kindText(SoundKind kind);

} // namespace tuvvo
