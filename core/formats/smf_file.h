// Opening a MIDI file through libsmf. Inner part of formats/.
#pragma once

#include "base/result.h"

#include <smf.h>

#include <filesystem>
#include <memory>

namespace tuvvo {

struct SmfDelete {
  void operator()(smf_t* smf) const;
};
using SmfPtr = std::unique_ptr<smf_t, SmfDelete>;

inline constexpr std::size_t kMostSmfEvents = 1'000'000;

/// A Standard MIDI File of at most 8 MB whose chunks are as long as they say: what libsmf takes for
/// granted. @returns an Error for anything else
[[nodiscard]] Result<SmfPtr> openSmf(const std::filesystem::path& path);

} // namespace tuvvo
