// How keys, chords and notes are written: by the key, as musicians write them. ASCII, as in files;
// whoever shows them puts the signs in (withSigns()).
#pragma once

#include "listen/chord_name.h"

namespace tuvvo {

/// A pitch class as it is written in a key: with flats where the key's signature has flats (the
/// circle of fifths; of six sharps and six flats F# major and Eb minor), else with sharps. Without
/// a key by its usual name: C#, Eb, F#, Ab, Bb (common practice, no source).
[[nodiscard]] std::string spelt(int pitchClass, const std::optional<KeyName>& key);
[[nodiscard]] std::string spelt(const ChordName& chord, const std::optional<KeyName>& key);
/// "C2", "Eb3"; 60 is C4.
[[nodiscard]] std::string speltNote(int note, const std::optional<KeyName>& key);
/// The note of a name, "Eb3" or "f#2", also with signs; 60 for C4. Nothing for what is none, and
/// for what is below 0 or over 127.
[[nodiscard]] std::optional<int> noteFromName(std::string_view name);
/// The name of a chord as it is written in a key; what is no chord stays as it is.
[[nodiscard]] std::string respelt(std::string_view chord, const std::optional<KeyName>& key);

/// "Eb" with the sign for flat in place of the letter, "F#m7" with that for sharp: a b or # after a
/// capital letter from A to G that begins a word. Other words stay as they are.
[[nodiscard]] std::string withSigns(std::string_view text);
/// The signs as the letters b and #; what else is in the text stays.
[[nodiscard]] std::string withoutSigns(std::string_view text);

} // namespace tuvvo
