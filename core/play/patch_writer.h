// From keys to the patches of a score. Inner part of play/.
#pragma once

#include "play/score.h"
#include "shape/shaped.h"

#include <map>
#include <optional>
#include <unordered_map>

namespace tuvvo {

/// What keys need made, at any tempo. A source is resolved once, and its line of time worked out
/// once for every method and tempo.
class BakeOrders {
public:
  explicit BakeOrders(const Project& project) : m_project(project) {}
  /// @param key  plays one sound: see keyOfLayer()
  /// @returns nothing for what is played straight from its source
  [[nodiscard]] std::optional<BakeOrder> orderFor(const Source& source, const Key& key, Bpm tempo);

private:
  const Project& m_project;
  std::map<Id, ResolvedSource> m_resolved;
  std::map<std::tuple<Id, FitMethod, double>, TimeLine> m_lines;
};

/// How a hit has its key's sound.
struct HitSound {
  bool reversed = false;
  int treated = 0; ///< by which of the lists of treatments that hits have; 0: by none
  auto operator<=>(const HitSound&) const = default;
};
inline constexpr std::size_t kMostTreatedSounds = 512; ///< of one score; more hits are not treated

/// Writes keys into a score: all of them at the beat's own tempo and, where hits ask for it,
/// reversed and treated; others as they are asked for. Not for the audio thread.
class PatchWriter {
public:
  /// Writes those that every score of the project has.
  PatchWriter(Score& score, const Project& project, const CompileOptions& options);

  /// The patches of a key as a hit wants them. Made where they are not there yet; a key of which
  /// nothing goes by the tempo has the same ones at all of them.
  /// @returns the first of them; −1 for a key without any sound
  [[nodiscard]] int patchOf(Id key, const HitSound& sound, Bpm tempo);
  /// @param treated  whether its own treatments act
  [[nodiscard]] HitSound soundOf(const Hit& hit, bool treated);

private:
  struct Place {
    Id key = 0;
    HitSound sound;
    double tempo = 0;
    bool operator==(const Place&) const = default;
  };
  struct HashOfPlace {
    std::size_t operator()(const Place& place) const {
      return std::hash<double>()(place.tempo) ^ std::size_t(place.key) << 1 ^
             std::size_t(place.sound.reversed) ^ std::size_t(place.sound.treated) << 20;
    }
  };

  int add(const Key& key, const HitSound& sound, Bpm tempo);
  void addLayer(const Key& layer, int nth, const HitSound& sound, Bpm tempo);
  void addWhatHitsAsk();
  [[nodiscard]] std::vector<Key> layersOf(const Key& key, const HitSound& sound) const;
  [[nodiscard]] bool goesByTempo(const Key& key, const HitSound& sound, Bpm tempo);

  Score& m_score;
  const Project& m_project;
  const CompileOptions& m_options;
  BakeOrders m_orders;
  std::vector<std::vector<Treatment>> m_treated; ///< by HitSound::treated − 1
  bool m_solo;
  std::unordered_map<Place, int, HashOfPlace> m_places;
};

/// A key's filters, standing still.
[[nodiscard]] PatchFilters filtersOf(const Key& key);

} // namespace tuvvo
