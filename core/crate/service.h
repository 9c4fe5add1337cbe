// A simulated sample service: a small catalogue of sounds that ship with Tuvvo, offline.
#pragma once

#include "base/result.h"
#include "crate/query.h"
#include "model/project.h"

#include <filesystem>

namespace tuvvo {

struct ServiceItem {
  std::string id, title;
  std::filesystem::path file;
  std::vector<std::string> tags;
  SoundKind kind = SoundKind::Loop;
  Seconds duration{0};
  std::optional<Bpm> tempo;
  std::optional<KeyName> key;
  int bars = 0;
  Parts parts = 0;
  std::optional<Likeness> likeness;
  Provenance provenance; ///< with its licence
};

/// What a real service would answer over the network is answered from a folder. It is called
/// simulated wherever it shows.
class SampleService {
public:
  /// Reads catalogue.json of a folder; entries that are damaged or whose file is missing are left
  /// out.
  static Result<SampleService> open(const std::filesystem::path& folder);

  [[nodiscard]] const std::vector<ServiceItem>& items() const { return m_items; }
  /// Places in items(), nearest to the beat first.
  [[nodiscard]] std::vector<std::size_t> find(const Query& query, const BeatNow& beat) const;
  /// What is known of an item before it is had, for the card and for hearing it in context.
  [[nodiscard]] Source sourceOf(std::size_t item) const;
  /// Copies an item into a folder under its title; a copy that is there already is used.
  /// @returns the copy's path
  Result<std::filesystem::path> get(std::size_t item, const std::filesystem::path& folder) const;

private:
  std::vector<ServiceItem> m_items;
};

} // namespace tuvvo
