#include "service.h"

#include "audio/decode.h"
#include "audio/encode.h"
#include "base/files.h"
#include "formats/bundle.h"
#include "formats/provenance_json.h"
#include "formats/shipped.h"
#include "listen/analyse.h"
#include "notes_player.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace tuvvo::demo {

namespace {

using Json = nlohmann::ordered_json;

/// A figure over a progression: which note of the chord (from its lowest; 3 is the root an octave
/// up) sounds when, in beats of a bar.
struct Step {
  double at, length;
  int tone;
  double velocity;
};

struct Recipe {
  std::string title;
  double bpm;
  int program; ///< General MIDI; −1 the drums
  std::string key;
  std::vector<std::vector<int>> chords; ///< one a bar
  std::vector<Step> figure;
  std::vector<std::string> tags;
  int beatsPerBar = 4;
};

const std::vector<Step> kBroken{{0, 1, 0, .8},    {0.5, .5, 2, .6}, {1, .5, 1, .66},
                                {1.5, 1, 3, .7},  {2.5, .5, 1, .6}, {3, .5, 2, .68},
                                {3.5, .5, 1, .55}};
const std::vector<Step> kHeld{{0, 3.8, 0, .7}, {0, 3.8, 1, .66}, {0, 3.8, 2, .66}, {0, 3.8, 3, .6}};
const std::vector<Step> kPushed{{0, .7, 0, .84},  {0, .7, 1, .8},    {0, .7, 2, .8},
                                {1.5, .4, 0, .7}, {1.5, .4, 1, .7},  {1.5, .4, 2, .7},
                                {2.5, .9, 0, .8}, {2.5, .9, 1, .76}, {2.5, .9, 3, .8}};
const std::vector<Step> kWalk{{0, .9, 0, .9}, {1, .9, 2, .76}, {2, .9, 3, .8}, {3, .9, 1, .74}};
const std::vector<Step> kThree{
    {0, .9, 0, .86}, {1, .5, 1, .6}, {1, .5, 2, .6}, {2, .5, 1, .62}, {2, .5, 3, .62}};

std::vector<Recipe> recipes() {
  return {
      {"gate four",
       84,
       4,
       "Am",
       {{57, 60, 64}, {53, 57, 60}, {50, 57, 62}, {52, 56, 59}},
       kPushed,
       {"keys", "warm", "night"}},
      {"wet rope",
       72,
       24,
       "Em",
       {{52, 55, 59}, {48, 55, 60}, {50, 54, 57}, {47, 54, 59}},
       kBroken,
       {"guitar", "sparse"}},
      {"dim lamps",
       96,
       11,
       "Dm",
       {{62, 65, 69}, {58, 65, 70}, {60, 64, 67}, {57, 64, 69}},
       kBroken,
       {"mallets", "soft"}},
      {"customs hall",
       78,
       48,
       "F#m",
       {{54, 57, 61}, {50, 57, 62}, {52, 56, 59}, {49, 56, 61}},
       kHeld,
       {"strings", "wide"}},
      {"tannoy",
       102,
       16,
       "G",
       {{55, 59, 62}, {52, 55, 59}, {48, 55, 60}, {50, 57, 62}},
       kPushed,
       {"organ", "bright"}},
      {"low water",
       90,
       33,
       "Cm",
       {{36, 43, 39}, {32, 39, 36}, {41, 48, 44}, {43, 47, 50}},
       kWalk,
       {"bass"}},
      {"slack tide",
       66,
       0,
       "Bb",
       {{58, 62, 65}, {55, 58, 62}, {51, 58, 63}, {53, 57, 60}},
       kBroken,
       {"piano", "slow"}},
      {"harbour waltz",
       108,
       21,
       "D",
       {{50, 57, 62}, {47, 54, 59}, {43, 55, 59}, {45, 52, 57}},
       kThree,
       {"accordion", "three"},
       3},
      {"night shift", 92, -1, "", {{}, {}, {}, {}}, {}, {"drums", "straight"}},
      {"cargo doors", 118, -1, "", {{}, {}, {}, {}}, {}, {"drums", "busy"}},
  };
}

void addDrums(std::vector<Note>& notes, const Recipe& recipe, Random& hand) {
  const double beat = 60 / recipe.bpm;
  const bool busy = recipe.bpm > 110;
  for (int bar = 0; bar < 4; ++bar) {
    const auto hit = [&](double at, int pitch, double velocity) {
      notes.push_back({(bar * 4 + at) * beat + 0.002 * std::abs(hand.bell()), 0.2, 9, pitch,
                       std::clamp(velocity + 0.03 * hand.bell(), 0.1, 1.0)});
    };
    for (double at : {0.0, bar % 2 ? 1.75 : 2.5}) hit(at, 36, .92);
    if (busy) hit(2.25, 36, .7);
    hit(1, 38, .9);
    hit(3, 38, .94);
    for (int e = 0; e < (busy ? 16 : 8); ++e) hit(e * (busy ? 0.25 : 0.5), 42, e % 2 ? .45 : .66);
  }
}

Buffer played(const Recipe& recipe, const std::string& soundfont, std::uint64_t seed) {
  Random hand(seed);
  const double beat = 60 / recipe.bpm, bar = beat * recipe.beatsPerBar, length = bar * 4;
  std::vector<Note> notes;
  // Twice round, and the second time is kept: it carries the first one's tails.
  for (int pass = 0; pass < 2; ++pass) {
    std::vector<Note> once;
    Random same(seed);
    if (recipe.program < 0) addDrums(once, recipe, same);
    for (std::size_t b = 0; b < recipe.chords.size() && recipe.program >= 0; ++b)
      for (const auto& step : recipe.figure) {
        const auto& chord = recipe.chords[b];
        const int pitch =
            step.tone < int(chord.size()) ? chord[std::size_t(step.tone)] : chord[0] + 12;
        once.push_back({double(b) * bar + step.at * beat + 0.002 * std::abs(same.bell()),
                        step.length * beat * 0.96, 0, pitch, step.velocity});
      }
    for (Note note : once) {
      note.atS += pass * length;
      notes.push_back(note);
    }
  }
  const Instrument player =
      recipe.program < 0 ? Instrument{9, 128, 0, .9, 0} : Instrument{0, 0, recipe.program, .85, 0};
  const Buffer all = playNotes(soundfont, {player}, notes, 2 * length + 0.5);
  Buffer loop(length);
  const auto from = std::size_t(std::llround(length * kRate));
  for (std::size_t i = 0; i < loop.size(); ++i) {
    loop.left[i] = all.left[from + i];
    loop.right[i] = all.right[from + i];
  }
  loop.normalise(0.8);
  return loop;
}

} // namespace

bool makeService(const std::filesystem::path& data, const std::string& soundfont) {
  const std::filesystem::path folder = data / "service";
  std::filesystem::create_directories(folder);
  Json items = Json::array();
  std::uint64_t seed = 1;
  for (const auto& recipe : recipes()) {
    const auto path = folder / (recipe.title + ".flac");
    const auto written = encodeFile(*played(recipe, soundfont, seed++).sound(true), path,
                                    {FileFormat::Flac, SampleFormat::Int16});
    JobContext job;
    const auto heard = written ? analyseFile(path, job) : Result<HeardFile>(written.error());
    const auto kept =
        heard ? writeHearing(std::filesystem::path(path).replace_extension(".heard.json"),
                             heard->heard)
              : Result<void>(heard.error());
    if (!kept) {
      std::fprintf(stderr, "%s\n", kept.error().text().c_str());
      return false;
    }
    Provenance provenance = shippedProvenance(recipe.title);
    provenance.from = "Tuvvo's simulated sample service";
    provenance.recording = provenance.composition = Permission::OpenLicence;
    provenance.note = "CC0: no rights reserved";
    // What a service says of its own sounds is what they were made as.
    Json item{{"id", std::to_string(items.size() + 1)},
              {"title", recipe.title},
              {"file", path.filename().string()},
              {"kind", recipe.program < 0 ? "break" : "loop"},
              {"durationS", heard->heard.duration.value},
              {"bpm", recipe.bpm},
              {"bars", 4},
              {"tags", recipe.tags},
              {"papers", toJson(provenance)}};
    if (!recipe.key.empty()) item["key"] = recipe.key;
    items.push_back(std::move(item));
    std::printf("%-14s %s %.2f BPM for %.2f, %s for %s\n", recipe.title.c_str(),
                std::string(nameOf(heard->heard.kind.kind)).c_str(),
                heard->heard.tempo ? heard->heard.tempo->bpm.value : 0, recipe.bpm,
                heard->heard.key ? nameOf(heard->heard.key->name).c_str() : "none",
                recipe.key.c_str());
  }
  const auto saved =
      writeFileAtomically(folder / "catalogue.json", Json{{"items", items}}.dump(1, ' ') + "\n");
  if (!saved) std::fprintf(stderr, "%s\n", saved.error().text().c_str());
  return saved.ok();
}

} // namespace tuvvo::demo
