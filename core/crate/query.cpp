#include "crate/query.h"
#include "base/text.h"

#include "base/convert.h"
#include "listen/chord_name.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <sstream>

namespace tuvvo {

namespace {

constexpr std::size_t kMostWords = 64; // of a text that may have been pasted

constexpr QueryForm kForms[] = {
    {"is loop", "also break, one-shot, passage, field, voice"},
    {"beat bpm", "about the beat's tempo, half and double too"},
    {"85-95 bpm", "a tempo or a range, half and double too"},
    {"exactly 90 bpm", "without half and double"},
    {"near beat", "keys that share nearly all notes with the beat's"},
    {"near Am", "a key and its neighbours; in Am: the same notes"},
    {"4 bars", "length; also 2-8 bars"},
    {"chord minor held 2", "a minor chord for two bars; also chord Am7"},
    {"is cleared", "may be used; also uncleared"},
    {"is unused", "in no beat yet; also used"},
    {"3 stars", "and more"},
    {"tag rain", "a whole tag"},
    {"is exact", "exact loops; also steady, missing, twice"},
    {"has lows", "a part with lows; also drums, mids, tones; no drums: without"},
    {"busy", "a part in which much happens; also calm"},
    {"like this one", "sounds like the chosen source, nearest first"},
};

std::string numberText(double v) {
  char text[32];
  std::snprintf(text, sizeof text, "%g", v);
  return text;
}

/// "90", "85-95", "85–95".
std::optional<std::pair<double, double>> rangeFrom(std::string text) {
  for (const std::string dash : {"–", ".."})
    if (const auto at = text.find(dash); at != std::string::npos)
      text.replace(at, dash.size(), "-");
  char* end = nullptr;
  if (text.empty() || text[0] < '0' || text[0] > '9') return std::nullopt;
  const double low = std::strtod(text.c_str(), &end);
  double high = low;
  if (*end == '-') {
    const char* from = end + 1;
    high = std::strtod(from, &end);
    if (end == from) return std::nullopt;
  }
  if (*end != '\0' || !std::isfinite(low) || !std::isfinite(high)) return std::nullopt;
  return std::pair{std::min(low, high), std::max(low, high)};
}

class QueryReader {
public:
  explicit QueryReader(const std::string& text) {
    std::istringstream in(text);
    for (std::string word; m_words.size() < kMostWords && in >> word;)
      m_words.push_back(word.substr(0, 200));
  }

  Query read() {
    while (m_at < m_words.size())
      if (!state() && !tempo() && !bars() && !stars() && !key() && !chord() && !tag() && !part() &&
          !like())
        m_query.words.push_back(m_words[m_at++]);
    return std::move(m_query);
  }

private:
  [[nodiscard]] std::string at(std::size_t ahead) const {
    return m_at + ahead < m_words.size() ? lowerCase(m_words[m_at + ahead]) : std::string();
  }
  [[nodiscard]] std::string asWritten(std::size_t ahead) const {
    return m_at + ahead < m_words.size() ? m_words[m_at + ahead] : std::string();
  }
  bool took(std::size_t words, std::string phrase) {
    m_at += words;
    m_query.reading.push_back(std::move(phrase));
    return true;
  }

  bool state() {
    if (at(0) != "is") return false;
    const std::string what = at(1);
    struct KindWord {
      const char* word;
      SoundKind kind;
    };
    for (const auto& [word, kind] :
         {KindWord{"one-shot", SoundKind::OneShot}, KindWord{"oneshot", SoundKind::OneShot},
          KindWord{"break", SoundKind::Break}, KindWord{"loop", SoundKind::Loop},
          KindWord{"passage", SoundKind::Passage}, KindWord{"song", SoundKind::Passage},
          KindWord{"field", SoundKind::Field}, KindWord{"voice", SoundKind::Voice}})
      if (what == word) {
        m_query.kind = kind;
        return took(2, std::string(nameOf(kind)) + "s");
      }
    struct Flag {
      const char* word;
      std::optional<bool> Query::*member;
      bool value;
      const char* phrase;
    };
    for (const auto& flag : {Flag{"cleared", &Query::cleared, true, "may be used"},
                             Flag{"uncleared", &Query::cleared, false, "not cleared"},
                             Flag{"used", &Query::used, true, "used in a beat"},
                             Flag{"unused", &Query::used, false, "in no beat yet"},
                             Flag{"steady", &Query::steady, true, "steady tempo"},
                             Flag{"exact", &Query::exact, true, "exact loops"},
                             Flag{"missing", &Query::missing, true, "file missing"},
                             Flag{"twice", &Query::duplicate, true, "there more than once"}})
      if (what == flag.word) {
        m_query.*flag.member = flag.value;
        return took(2, flag.phrase);
      }
    return false;
  }

  bool tempo() {
    const std::size_t skip = at(0) == "exactly" ? 1 : 0;
    std::string figure = at(skip);
    std::size_t words = skip + 2;
    if (figure.size() > 3 && figure.ends_with("bpm")) {
      figure.resize(figure.size() - 3);
      --words;
    } else if (at(skip + 1) != "bpm") {
      return false;
    }
    const std::string tail = skip ? "" : ", half and double too";
    if (figure == "beat") {
      m_query.tempoOfBeat = true;
      m_query.folded = skip == 0;
      return took(words, "about the beat's tempo" + tail);
    }
    const auto range = rangeFrom(figure);
    if (!range) return false;
    auto [low, high] = *range;
    if (low == high) { // a single figure means about that
      low *= 0.985;
      high *= 1.015;
    }
    m_query.tempo = {Bpm(low), Bpm(high)};
    m_query.folded = skip == 0;
    return took(words, figure + " BPM" + tail);
  }

  bool bars() {
    if (at(1) != "bars" && at(1) != "bar") return false;
    const auto range = rangeFrom(at(0));
    if (!range || range->second > 100000) return false;
    m_query.bars = {toWhole<int>(range->first), toWhole<int>(range->second)};
    return took(2, at(0) + (at(0) == "1" ? " bar long" : " bars long"));
  }

  bool stars() {
    if (at(1) != "stars" && at(1) != "star") return false;
    const auto range = rangeFrom(at(0));
    if (!range || range->first > 5) return false;
    m_query.stars = toWhole<int>(range->first);
    return took(2, at(0) + (m_query.stars == 1 ? " star and more" : " stars and more"));
  }

  bool key() {
    const bool near = at(0) == "near";
    if (!near && at(0) != "in") return false;
    const auto name = keyFromName(asWritten(1));
    if (!name && at(1) != "beat") return false;
    m_query.fifths = near ? 1 : 0;
    if (name) {
      m_query.key = name;
      return took(2, (near ? "keys near " : "notes of ") + nameOf(*name));
    }
    m_query.keyOfBeat = true;
    return took(2, near ? "keys near the beat's" : "notes of the beat's key");
  }

  bool chord() {
    if (at(0) != "chord") return false;
    Query::ChordWanted wanted;
    std::string phrase;
    if (at(1) == "minor" || at(1) == "major") {
      wanted.minor = at(1) == "minor";
      phrase = "a " + at(1) + " chord";
    } else {
      const std::string name = asWritten(1);
      const auto parsed = chordFromName(name);
      if (!parsed) return false;
      wanted.root = parsed->root;
      wanted.ending = parsed->kind->ending;
      phrase = "the chord " + name;
    }
    std::size_t words = 2;
    if (at(2) == "held")
      if (const auto range = rangeFrom(at(3))) {
        wanted.bars = range->first;
        words = at(4) == "bars" || at(4) == "bar" ? 5 : 4;
        phrase += " held " + numberText(wanted.bars) + (wanted.bars == 1 ? " bar" : " bars");
      }
    m_query.chord = wanted;
    return took(words, phrase);
  }

  bool tag() {
    if (at(0) != "tag" || at(1).empty()) return false;
    m_query.tags.push_back(asWritten(1));
    return took(2, "tagged " + asWritten(1));
  }

  /// "has lows", "no drums", "busy".
  bool part() {
    const bool has = at(0) == "has", no = at(0) == "no";
    const std::string word = has || no ? at(1) : at(0);
    for (std::size_t w = 0; w < kPartWords.size(); ++w) {
      const bool alone = kPartWords[w].member == &ContentWords::busy ||
                         kPartWords[w].member == &ContentWords::calm;
      if (word != kPartWords[w].word || !(has || no || alone)) continue;
      (no ? m_query.part.hasNo : m_query.part.has) |= PartWords(1u << w);
      if (alone) return took(has || no ? 2 : 1, (no ? "a part not " : "a part ") + word);
      return took(2, (no ? "a part without " : "a part with ") + word);
    }
    return false;
  }

  bool like() {
    if (at(0) != "like" || at(1) != "this" || at(2) != "one") return false;
    m_query.likeThis = true;
    return took(3, "like this one, nearest first");
  }

  std::vector<std::string> m_words;
  std::size_t m_at = 0;
  Query m_query;
};

} // namespace

Query readQuery(const std::string& text) { return QueryReader(text).read(); }

std::span<const QueryForm> queryForms() { return kForms; }

} // namespace tuvvo
