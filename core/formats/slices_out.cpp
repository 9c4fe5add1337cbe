#include "formats/slices_out.h"

#include "base/convert.h"
#include "base/guard.h"
#include "base/new_file.h"
#include "cut/slice_levels.h"
#include "formats/sfz.h"
#include "play/bounce.h"
#include "play/print.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

namespace fs = std::filesystem;

/// A slice as it was cut: its samples with the fades of its edges.
SoundPtr cutOut(const Sound& sound, const Stretch& stretch, const Cut& cut) {
  Channels channels;
  const auto n = std::size_t((stretch.end - stretch.start).value);
  const auto in = std::min<std::size_t>(n, std::size_t(toFrames(cut.fadeIn, sound.rate()).value)),
             out = std::min<std::size_t>(n, std::size_t(toFrames(cut.fadeOut, sound.rate()).value));
  for (int c = 0; c < sound.channels(); ++c) {
    const auto samples = sound.channel(c).subspan(std::size_t(stretch.start.value), n);
    Samples channel(samples.begin(), samples.end());
    for (std::size_t i = 0; i < in; ++i) channel[i] *= float(i) / float(in);
    for (std::size_t i = 0; i < out; ++i) channel[n - 1 - i] *= float(i) / float(out);
    channels.push_back(std::move(channel));
  }
  return std::make_shared<const Sound>(std::move(channels), sound.rate());
}

/// What the slice's name ends in: the tempo and key it has in the file.
std::string endingOf(const Project& project, const Source& source, const Key* key,
                     bool asTheySound) {
  const auto grid = gridOf(source);
  const auto own = keyOf(source);
  if (!asTheySound) return tempoAndKeyName(grid ? std::optional(grid->tempo) : std::nullopt, own);
  std::optional<KeyName> moved;
  if (own) {
    double st = semitonesOf(source.shape.pitch()).value;
    if (key) st += key->tune.value + key->fine.value / 100;
    moved = transposed(*own, toNearest<int>(st));
  }
  return tempoAndKeyName(project.tempo, moved);
}

constexpr std::size_t kLongestSourceName = 80; ///< bytes in the names of its slices

std::string join(std::initializer_list<std::string> words) {
  std::string out;
  for (const auto& word : words)
    if (!word.empty()) out += (out.empty() ? "" : " ") + word;
  return out;
}

/// What will be written where.
struct Plan {
  struct Slice {
    const Key* key;
    const Cut* cut;
    Stretch stretch;
    fs::path path;
  };
  std::vector<Slice> slices;
  fs::path whole, instrument; ///< empty: not wanted
  std::string title;
};

Plan planOf(const Project& project, const Source& source, const SlicesOut& options) {
  Plan plan;
  const std::string ending = options.format == FileFormat::Flac ? ".flac" : ".wav";
  const std::string name = fileNameOf(source.name, kLongestSourceName);
  for (Id id : slicesOf(project, source.id)) {
    const Key& key = *findKey(project, id);
    const Cut* cut = findCut(source, key.sound.cut);
    const Stretch stretch = stretchOf(source, key);
    if (!cut || stretch.end <= stretch.start) continue;
    char index[24];
    std::snprintf(index, sizeof index, "%03zu", plan.slices.size() + 1);
    const std::string file = fileNameOf(join(
        {name, index, nameOf(project, key), endingOf(project, source, &key, options.asTheySound)}));
    plan.slices.push_back({&key, cut, stretch, options.folder / (file + ending)});
  }
  plan.title = fileNameOf(join({name, endingOf(project, source, nullptr, options.asTheySound)}));
  if (options.whole)
    plan.whole =
        options.folder /
        (fileNameOf(join({name, "whole", endingOf(project, source, nullptr, false)})) + ending);
  if (options.instrument) plan.instrument = options.folder / (plan.title + ".sfz");
  return plan;
}

/// A slice's sound with its marks and what the instrument says of it.
struct SliceSound {
  SoundPtr sound;
  FileMarks marks;
  SfzRegion region;
};

Result<SliceSound> soundOf(const Project& project, const Source& source, const Plan::Slice& slice,
                           bool asItSounds, JobContext& job) {
  const Key& key = *slice.key;
  SliceSound out{nullptr, {}, {key, {}, std::nullopt}};
  if (!asItSounds) {
    out.sound = cutOut(*source.sound, slice.stretch, *slice.cut);
    if (key.loop.on) {
      const double frames = double(out.sound->frames().value);
      out.marks.loop = {Frames(toNearest<std::int64_t>(key.loop.from * frames)),
                        Frames(toNearest<std::int64_t>(key.loop.to * frames))};
      out.region.loop = out.marks.loop;
    }
    return out;
  }
  const Recipe made = *recipeOf(project, key);
  if (key.loop.on) {
    auto printed = bounceRound(project.sources, made, job);
    if (!printed) return printed.error();
    out.sound = printed->sound;
    if (printed->loopEnd > printed->loopStart)
      out.marks.loop = {Frames(printed->loopStart), Frames(printed->loopEnd)};
    out.region.loop = out.marks.loop;
  } else {
    auto printed = bounce(project.sources, made, job);
    if (!printed) return printed.error();
    out.sound = *printed;
  }
  Key plain; // the rest is in the file already
  plain.gate = key.gate;
  plain.choke = key.choke;
  if (key.loop.on) { // what goes round fades in the player, not in the file
    plain.envelope = key.envelope;
    plain.envelope.attack = Milliseconds(0);
    plain.loop.crossfade = Milliseconds(0); // it is in the file
  }
  out.region.key = plain;
  return out;
}

FileMarks cuesOf(const Project& project, const Source& source) {
  FileMarks marks;
  for (const auto& cut : source.cuts) {
    const auto key = std::find_if(project.keys.begin(), project.keys.end(), [&](const Key& k) {
      return k.sound == SoundRef{source.id, cut.id};
    });
    marks.cues.push_back({cut.start, key == project.keys.end() ? "" : nameOf(project, *key)});
  }
  return marks;
}

} // namespace

std::string tempoAndKeyName(std::optional<Bpm> tempo, std::optional<KeyName> key) {
  std::string out;
  if (tempo) {
    char text[32];
    std::snprintf(text, sizeof text, "%.2f", tempo->value);
    std::string figure = text;
    while (figure.back() == '0') figure.pop_back();
    if (figure.back() == '.') figure.pop_back();
    out = figure + "bpm";
  }
  if (key) out += (out.empty() ? "" : " ") + nameOf(*key);
  return out;
}

std::vector<fs::path> sliceFiles(const Project& project, Id id, const SlicesOut& options) {
  const Source* source = findSource(project, id);
  if (!source) return {};
  const Plan plan = planOf(project, *source, options);
  std::vector<fs::path> out;
  for (const auto& slice : plan.slices) out.push_back(slice.path);
  for (const auto& path : {plan.whole, plan.instrument})
    if (!path.empty()) out.push_back(path);
  return out;
}

namespace {

Result<std::vector<SliceFile>> writeAll(const Project& project, Id id, const SlicesOut& options,
                                        Outputs& outputs, JobContext& job) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound)
    return Error{"Its sound is missing", source ? source->name : "", "Find the file again."};
  if (slicesOf(project, id).empty())
    return Error{"There are no slices to write", source->name, "Cut it first."};
  if (auto made = makeFolder(options.folder); !made) return made.error();
  removeLeftovers(options.folder);
  const Plan plan = planOf(project, *source, options);
  protectSources(project, outputs);
  EncodeOptions encode;
  encode.format = options.format;
  encode.samples = options.samples;
  encode.mode = modeLike(source->origin);
  for (const auto& path : sliceFiles(project, id, options)) {
    const auto replace = outputs.claim(path);
    if (!replace) return replace.error();
    encode.replace = replace.value();
  }
  std::vector<SliceFile> out;
  std::vector<SfzRegion> regions;
  for (const auto& slice : plan.slices) {
    job.report(double(out.size()) / double(plan.slices.size()));
    if (job.cancelled()) return Error{"Writing slices was cancelled", "", ""};
    auto sound = soundOf(project, *source, slice, options.asTheySound, job);
    if (!sound) return sound.error();
    encode.marks = sound->marks;
    if (auto written = encodeFile(*sound->sound, slice.path, encode); !written)
      return written.error();
    regions.push_back(sound->region);
    regions.back().file = slice.path.filename().string();
    out.push_back({slice.path, slice.key->id, slice.stretch.start, slice.stretch.end});
  }
  if (!plan.whole.empty()) {
    encode.marks = cuesOf(project, *source);
    if (auto written = encodeFile(*source->sound, plan.whole, encode); !written)
      return written.error();
    out.push_back({plan.whole, 0, Frames(0), source->sound->frames()});
  }
  if (!plan.instrument.empty()) {
    if (auto written =
            writeFileAtomically(plan.instrument, sfzText(plan.title, regions), encode.replace);
        !written)
      return written.error();
    out.push_back({plan.instrument, 0, Frames(0), Frames(0)});
  }
  return out;
}

} // namespace

Result<std::vector<SliceFile>> writeSlices(const Project& project, Id id, const SlicesOut& options,
                                           Outputs& outputs, JobContext& job) {
  return guarded("Writing slices", options.folder.string(),
                 [&] { return writeAll(project, id, options, outputs, job); });
}

} // namespace tuvvo
