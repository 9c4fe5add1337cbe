// What a source is filtered and ordered by, in little room: of the crate and of the service alike.
#pragma once

#include "crate/query.h"
#include "cut/fit.h"

namespace tuvvo {

struct Facet {
  std::int64_t id = 0;
  std::string name;
  float tempo = 0, seconds = 0, tuning = 0, hitsASecond = 0; ///< tempo 0: none
  float reach = 0;           ///< for the beat that was last asked for; below 0: not reckoned
  std::int32_t nameRank = 0; ///< place among the names, as long as they are ranked
  int bars = 0;
  Parts parts = 0;                  ///< 0: not known
  std::optional<Likeness> likeness; ///< nothing: not known
  std::int8_t key = -1;             ///< tonic, 12 more for minor; −1 none
  std::int8_t kind = -1;
  std::uint8_t stars = 0;
  bool heard = false, steady = false, exact = false, cleared = false, used = false;
  int copies = 0;
};

/// What is known of it, put to a beat.
[[nodiscard]] FitQuestion fitQuestion(const Facet& facet, const BeatNow& beat);
/// Cost of the best way to bring it to the beat; infinity where neither tempo nor key is known.
[[nodiscard]] float reachOf(const Facet& facet, const BeatNow& beat);

/// Everything of a query that figures answer: all but words, tags and chords.
class FacetFilter {
public:
  /// @param query  must outlive the filter
  FacetFilter(const Query& query, const BeatNow& beat);
  [[nodiscard]] bool takes(const Facet& facet) const;

private:
  const Query& m_query;
  std::vector<std::pair<double, double>> m_tempos;
  std::vector<KeyName> m_keys;
};

} // namespace tuvvo
