// What is in the parts of a source, and what it is like, in little room.
#pragma once

#include "listen/content.h"

#include <cstdint>

namespace tuvvo {

/// What people say of a part: a bit a word.
using PartWords = std::uint8_t;
struct PartWord {
  const char* word;
  bool ContentWords::*member;
};
inline constexpr std::array<PartWord, 6> kPartWords{{{"lows", &ContentWords::lows},
                                                     {"drums", &ContentWords::drums},
                                                     {"mids", &ContentWords::mids},
                                                     {"tones", &ContentWords::tones},
                                                     {"busy", &ContentWords::busy},
                                                     {"calm", &ContentWords::calm}}};
[[nodiscard]] PartWords wordBits(const Content& content);

/// Bit w is set where some part has exactly the words w. 0: nothing is known of what is in it.
using Parts = std::uint64_t;
/// The parts are the sections, or the whole where there are none.
[[nodiscard]] Parts partsOf(const Analysis& heard);

/// A part that has all of one and none of the other.
struct PartWanted {
  PartWords has = 0, hasNo = 0;
  bool operator==(const PartWanted&) const = default;
  [[nodiscard]] bool any() const { return has != 0 || hasNo != 0; }
  /// False for a part of which nothing is known.
  [[nodiscard]] bool agrees(const Content& content) const;
  [[nodiscard]] bool agrees(Parts parts) const;
};

/// What a sound is like to the ear, whatever its tempo, key and level: how dense and how long it
/// is, where its power lies, how bright, how short and how changeable its hits are. Each figure is
/// scaled so that 1 apart is plainly unlike (common practice, no source).
using Likeness = std::array<float, 11>;
/// @returns nothing where what is in it was not listened for
[[nodiscard]] std::optional<Likeness> likenessOf(const Analysis& heard);
/// 0 for the same; about 1 for what has little in common.
[[nodiscard]] float unlikeness(const Likeness& a, const Likeness& b);
/// What is nearer is like it.
inline constexpr float kAlike = 0.5f;

} // namespace tuvvo
