// Writes theory.json, the table that tst_tones.cpp checks scales, chords and degrees against, from a general
// theory library of the npm registry: npm install @tonaljs/tonal@4.10.0, then node theory.mjs > theory.json
import tonal from "@tonaljs/tonal";
const { Chord, Interval, Key, Note, Progression, Scale } = tonal;

const tonics = ["C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"];
const same = "m dim sus2 sus4 maj7 m7 7 5 aug 6 m6 6/9 add9 madd9 m7b5 dim7 7sus4 9 m9 maj9 9sus4 11 m11 13 m13".split(" ");
const endings = { "": "M", mmaj7: "mMaj7", ...Object.fromEntries(same.map((each) => [each, each])) };
const chroma = (names) => names.map((name) => Note.chroma(name));

const scales = [], chords = [], degrees = [], signatures = [];
for (const tonic of tonics)
  for (const [minor, name] of [[false, "major"], [true, "minor"]]) {
    scales.push({ tonic: Note.chroma(tonic), minor, notes: chroma(Scale.get(`${tonic} ${name}`).notes) });
    const key = minor ? Key.minorKey(tonic).natural : Key.majorKey(tonic);
    degrees.push({
      tonic: Note.chroma(tonic), minor,
      triads: key.triads ? key.triads.map((c) => chroma(Chord.get(c).notes)) : [],
      sevenths: key.chords.map((c) => chroma(Chord.get(c).notes)),
      roots: chroma(key.scale),
    });
    const flats = (minor ? Key.minorKey(tonic) : Key.majorKey(tonic)).alteration < 0;
    signatures.push({ tonic: Note.chroma(tonic), minor, flats });
  }
for (const tonic of tonics)
  for (const [ending, symbol] of Object.entries(endings))
    chords.push({ root: Note.chroma(tonic), ending, notes: chroma(Chord.getChord(symbol, tonic).notes),
                  semitones: Chord.getChord(symbol, tonic).intervals.map(Interval.semitones) });

// Every other way to write a kind that the library reads: as [tonic, what is written, notes].
const aliases = [];
for (const symbol of Object.values(endings))
  for (const alias of Chord.getChord(symbol, "C").aliases)
    aliases.push({ written: "C" + alias, notes: chroma(Chord.getChord(symbol, "C").notes) });

// Roman numerals of chords in C major: what the library reads them as, the other way round.
const romans = ["I", "ii", "iii", "IV", "V", "vi", "V7", "ii7", "IVmaj7", "bVII", "bVI", "bIII", "Isus4"].map((roman) => {
  const [chord] = Progression.fromRomanNumerals("C", [roman.replace(/^b?[iv]+/, (m) => m.toUpperCase())]);
  return { roman, root: Note.chroma(Chord.tokenize(chord)[0]) };
});
console.log(JSON.stringify({ library: "@tonaljs/tonal 4.10.0", scales, chords, aliases, degrees, signatures, romans }, null, 0));
