// What the Crate stage looks at: a source of the beat, of the crate, or of the service.
#pragma once

#include "crate/crate.h"

#include <QMetaType>
#include <QString>

namespace tuvvo {

enum class Scope { Beat, Crate, Service };

/// Names one row of the list.
struct RowId {
  Scope scope = Scope::Beat;
  std::int64_t id = 0; ///< source of the beat, of the crate, or one more than the service's place
  bool operator==(const RowId&) const = default;
};

/// The chosen row with all that the card, the provenance and the map show of it.
struct Subject {
  RowId row;
  std::shared_ptr<const Source> source; ///< null: nothing is chosen
  std::vector<std::uint8_t> picture;    ///< its waveform where the sound is not in memory
  Marks marks;
  std::vector<std::string> paths, usedIn;
  int copies = 1;
  bool missing = false;
  [[nodiscard]] bool any() const { return source != nullptr; }
  [[nodiscard]] bool heard() const { return source && source->heard; }
};

/// A dot of the reach map.
struct ReachDot {
  RowId row;
  QString name;
  FitQuestion question; ///< what is known of it, put to the beat
};

} // namespace tuvvo
