#include "formats/slices_out.h"

#include "base/files.h"
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
    moved = transposed(*own, int(std::lround(st)));
  }
  return tempoAndKeyName(project.tempo, moved);
}

std::string join(std::initializer_list<std::string> words) {
  std::string out;
  for (const auto& word : words)
    if (!word.empty()) out += (out.empty() ? "" : " ") + word;
  return fileNameOf(out);
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

Result<std::vector<SliceFile>> writeSlices(const Project& project, Id id, const SlicesOut& options,
                                           JobContext& job) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound)
    return Error{"Its sound is missing", source ? source->name : "", "Find the file again."};
  const auto keys = slicesOf(project, id);
  if (keys.empty()) return Error{"There are no slices to write", source->name, "Cut it first."};
  std::error_code code;
  fs::create_directories(options.folder, code);
  if (code)
    return Error{"The folder cannot be made (" + code.message() + ")", options.folder.string(),
                 "Choose another folder."};
  const std::string ending = options.format == FileFormat::Flac ? ".flac" : ".wav";
  std::vector<SliceFile> out;
  std::vector<SfzRegion> regions;
  std::size_t number = 0;
  for (Id keyId : keys) {
    job.report(double(number) / double(keys.size()));
    if (job.cancelled()) return Error{"Writing slices was cancelled", "", ""};
    const Key& key = *findKey(project, keyId);
    const Cut* cut = findCut(*source, key.sound.cut);
    const Stretch stretch = stretchOf(*source, key);
    if (!cut || stretch.end <= stretch.start) continue;
    SoundPtr sound;
    FileMarks marks;
    SfzRegion region{key, {}, std::nullopt};
    if (options.asTheySound) {
      const Made made = *madeOf(project, key);
      if (key.loop.on) {
        auto printed = bounceRound(project.sources, made, job);
        if (!printed) return printed.error();
        sound = printed->sound;
        if (printed->loopEnd > printed->loopStart)
          marks.loop = {Frames(printed->loopStart), Frames(printed->loopEnd)};
        region.loop = marks.loop;
      } else {
        auto printed = bounce(project.sources, made, job);
        if (!printed) return printed.error();
        sound = *printed;
      }
    } else {
      sound = cutOut(*source->sound, stretch, *cut);
      if (key.loop.on) {
        const double frames = double(sound->frames().value);
        marks.loop = {Frames(std::llround(key.loop.from * frames)),
                      Frames(std::llround(key.loop.to * frames))};
        region.loop = marks.loop;
      }
    }
    char index[16];
    std::snprintf(index, sizeof index, "%03zu", ++number);
    const fs::path path =
        options.folder / (join({source->name, index, nameOf(project, key),
                                endingOf(project, *source, &key, options.asTheySound)}) +
                          ending);
    if (auto written = encodeFile(*sound, path, options.format, options.samples, marks); !written)
      return written.error();
    region.file = path.filename().string();
    if (options.asTheySound) { // the rest is in the file already
      Key plain;
      plain.gate = key.gate;
      plain.choke = key.choke;
      if (key.loop.on) { // what goes round fades in the player, not in the file
        plain.envelope = key.envelope;
        plain.envelope.attack = Milliseconds(0);
        plain.loop.crossfade = Milliseconds(0); // it is in the file
      }
      region.key = plain;
    }
    regions.push_back(std::move(region));
    out.push_back({path, keyId, stretch.start, stretch.end});
  }
  const std::string title =
      join({source->name, endingOf(project, *source, nullptr, options.asTheySound)});
  if (options.whole) {
    FileMarks marks;
    for (const auto& cut : source->cuts) {
      const auto key = std::find_if(project.keys.begin(), project.keys.end(), [&](const Key& k) {
        return k.sound == SoundRef{id, cut.id};
      });
      marks.cues.push_back({cut.start, key == project.keys.end() ? "" : nameOf(project, *key)});
    }
    const fs::path path =
        options.folder /
        (join({source->name, "whole", endingOf(project, *source, nullptr, false)}) + ending);
    if (auto written = encodeFile(*source->sound, path, options.format, options.samples, marks);
        !written)
      return written.error();
    out.push_back({path, 0, Frames(0), source->sound->frames()});
  }
  if (options.instrument) {
    const fs::path path = options.folder / (title + ".sfz");
    if (auto written = writeFileAtomically(path, sfzText(title, regions)); !written)
      return written.error();
    out.push_back({path, 0, Frames(0), Frames(0)});
  }
  return out;
}

} // namespace tuvvo
