// What is asked of the crate, in words: "is loop 85-95 bpm near Am 4 bars rain".
#pragma once

#include "crate/contents.h"
#include "model/project.h"

#include <span>

namespace tuvvo {

/// The beat that sources are wanted for.
struct BeatNow {
  Bpm tempo{90};
  std::optional<KeyName> key;
  bool operator==(const BeatNow&) const = default;
};
[[nodiscard]] inline BeatNow beatNowOf(const Project& project) {
  return {project.tempo, project.key};
}

struct Query {
  std::vector<std::string>
      words; ///< in names, folders, tags and provenance; every one, as beginnings
  std::vector<std::string> tags; ///< whole ones
  std::optional<SoundKind> kind;
  std::optional<std::pair<Bpm, Bpm>> tempo;
  bool tempoOfBeat = false; ///< within 6 % of the beat's
  bool folded = true;       ///< half and double tempo are welcome
  std::optional<KeyName> key;
  bool keyOfBeat = false;
  int fifths = 0; ///< how far the key may be; 0 the same notes, 1 its neighbours
  std::optional<std::pair<int, int>> bars;
  struct ChordWanted {
    std::optional<int> root;
    std::string ending;        ///< "", "m", "7" …: exactly; only with a root
    std::optional<bool> minor; ///< "minor", "major": any of that colour
    double bars = 0;           ///< held at least so long
  };
  std::optional<ChordWanted> chord;
  int stars = 0;                ///< at least
  PartWanted part;              ///< one part of it is so, all at once
  bool likeThis = false;        ///< like the source that is meant by "this one"
  std::optional<Likeness> like; ///< of that source; whoever asks says it
  std::optional<bool> cleared, used, steady, exact, missing, duplicate;
  std::vector<std::string> reading; ///< what was understood beside the plain words, one phrase each
};

/// Reads a query. Nothing is ever wrong: what has no other meaning is a word to look for.
///
///   is loop | is break | is one-shot | is passage | is field | is voice
///   is cleared | is uncleared | is used | is unused | is steady | is exact | is missing | is twice
///   90 bpm | 85-95 bpm | beat bpm      half and double too, unless "exactly" stands before
///   in Am | near Am | near beat        the same notes; neighbours by one fifth too
///   4 bars | 2-8 bars                  length
///   chord Am7 | chord minor            add "held 2" for two bars without a break
///   3 stars                            and more
///   tag rain                           a whole tag
///   has lows | no drums | busy | calm  of one part: several hold for the same part
///   like this one                      sounds like another source (see Query::like)
[[nodiscard]] Query readQuery(const std::string& text);

/// One line for people: the forms above with an example each.
struct QueryForm {
  const char* words;
  const char* meaning;
};
[[nodiscard]] std::span<const QueryForm> queryForms();

} // namespace tuvvo
