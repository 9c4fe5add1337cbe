#include "listen/analyse.h"

#include "audio/decode.h"
#include "base/convert.h"
#include "base/guard.h"
#include "base/hash.h"
#include "listen/chords.h"
#include "listen/content.h"
#include "listen/hum.h"
#include "listen/intake.h"
#include "listen/key.h"
#include "listen/kind.h"
#include "listen/onsets.h"
#include "listen/sections.h"
#include "listen/tempo.h"
#include "listen/wow.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tuvvo {

namespace {

/// Where a sound is first louder than 40 dB under its peak.
Seconds firstSoundOf(std::span<const float> mono, double rate) {
  float loudest = 0;
  for (float v : mono) loudest = std::max(loudest, std::abs(v));
  std::size_t at = 0;
  while (at < mono.size() && std::abs(mono[at]) < 0.01f * loudest) ++at;
  return Seconds(double(at) / rate);
}

/// Beats, or stretches of .37 s where there are none: what notes and chords are heard in.
struct Stretches {
  std::vector<Seconds> edges; ///< starts, and the end of the last
  std::vector<bool> downbeat;
};

Stretches stretchesOf(const TimeHeard& time, Seconds duration) {
  Stretches out;
  if (time.beats.size() >= 4) {
    if (time.beats.front().value > 0.1) out.edges.push_back(Seconds(0));
    out.edges.insert(out.edges.end(), time.beats.begin(), time.beats.end());
  } else {
    for (double at = 0; at < duration.value; at += 4096 / 11025.0) out.edges.push_back(Seconds(at));
  }
  for (const Seconds edge : out.edges)
    out.downbeat.push_back(std::binary_search(time.downbeats.begin(), time.downbeats.end(), edge));
  out.edges.push_back(duration);
  return out;
}

std::vector<Notes> notesOf(const Harmony& harmony, const std::vector<Seconds>& edges) {
  const NoteGrains grains = grainsOf(harmony);
  std::vector<Notes> out;
  for (std::size_t i = 0; i + 1 < edges.size(); ++i)
    out.push_back(grains.between(edges[i].value, edges[i + 1].value));
  return out;
}

/// The quietest twentieth of tenths of a second, dead silence left out.
double noiseFloorOf(std::span<const float> mono) {
  constexpr std::size_t kGrain = 2205;
  std::vector<float> levels;
  for (std::size_t at = 0; at + kGrain <= mono.size(); at += kGrain) {
    double sum = 0;
    for (float v : mono.subspan(at, kGrain)) sum += double(v) * double(v);
    if (sum > kGrain * 1e-12) levels.push_back(float(std::sqrt(sum / kGrain)));
  }
  if (levels.empty()) return -std::numeric_limits<double>::infinity();
  const auto place = levels.begin() + std::ptrdiff_t(levels.size() / 20);
  std::nth_element(levels.begin(), place, levels.end());
  return decibelsOf(double(*place)).value;
}

void addSpeedFaults(Analysis& heard, const Harmony& harmony) {
  heard.wow =
      measureWow(harmony, Seconds(heard.tempo ? heard.meter * 60 / heard.tempo->bpm.value : 0));
  if (heard.wow) heard.faults.push_back({"wow", heard.wow->depth.value, heard.wow->rate.value});
  if (const auto drift = measureSpeedDrift(harmony))
    heard.faults.push_back({"speed drift", drift->value});
}

Analysis analyse(Intake& intake, JobContext& job) {
  Analysis heard;
  heard.duration = intake.duration();
  heard.rate = intake.rate();
  heard.channels = intake.channels();
  heard.loudness = intake.levels().loudness();
  heard.faults = intake.levels().faults();
  const Samples& mono = intake.mono();
  heard.loudness.noiseFloorDbfs = noiseFloorOf(mono);
  job.report(0.15);
  for (auto fault : {measureHum(mono), findDeadAir(mono)})
    if (fault) heard.faults.push_back(std::move(*fault));
  heard.onsets = OnsetFinder().find(mono, job);
  job.report(0.4);
  if (job.cancelled()) return heard;
  const Harmony harmony = analyseHarmony(mono, job);
  job.report(0.6);
  if (job.cancelled()) return heard;
  const OnsetStrength strength = onsetStrength(mono);
  TimeHeard time =
      analyseTime(strength, senseBeats(senseInputs(strength, harmony)), HitIntervals(heard.onsets),
                  harmony, heard.duration, firstSoundOf(mono, 22050), job);
  job.report(0.8);
  if (job.cancelled()) return heard;
  if (heard.duration.value >= 0.5) {
    const Stretches stretches = stretchesOf(time, heard.duration);
    const auto notes = notesOf(harmony, stretches.edges);
    const ToneSense sense = senseTones(notes, stretches.downbeat);
    heard.key = analyseKey(harmony, sense, notes);
    if (heard.key) heard.chords = analyseChords(sense, notes, stretches.edges, stretches.downbeat);
  }
  heard.sections = analyseSections(harmony, strength, time.downbeats, heard.duration);
  heard.tempo = std::move(time.tempo);
  heard.meter = time.meter;
  heard.compound = time.compound;
  heard.beats = std::move(time.beats);
  heard.downbeats = std::move(time.downbeats);
  heard.loop = time.loop;
  for (auto& section : heard.sections)
    section.content = contentOf(heard, harmony, section.start, section.end);
  heard.content = contentOf(heard, harmony, Seconds(0), heard.duration);
  addSpeedFaults(heard, harmony);
  heard.kind = analyseKind(kindEvidence(heard, harmony, mono));
  if (heard.kind.kind == SoundKind::OneShot) {
    heard.root = heard.onsets.empty() ? Hertz(0) : heard.onsets.front().ring;
  }
  // One struck note is in no key, whatever its overtones say; nor is a place.
  if (heard.kind.kind == SoundKind::OneShot || heard.kind.kind == SoundKind::Field) {
    heard.key.reset();
    heard.chords.clear();
  }
  job.report(1.0);
  return heard;
}

struct FileState {
  std::uintmax_t bytes = 0;
  std::filesystem::file_time_type time;
  bool operator==(const FileState&) const = default;
};

FileState stateOf(const std::filesystem::path& path) {
  std::error_code code;
  return {std::filesystem::file_size(path, code), std::filesystem::last_write_time(path, code)};
}

constexpr std::int64_t kMostKept = std::int64_t(1) << 23; ///< frames; three minutes

/// Hash of rate, channels and samples, channel after channel. The second channel is kept until the
/// first has passed, or read again where it is long.
Result<std::string> hashOf(const std::filesystem::path& path, JobContext& job,
                           std::unique_ptr<Intake>* made, std::vector<std::string>* warnings) {
  ContentHasher hasher;
  SoundShape shape;
  std::vector<float> right;
  bool keeps = false;
  const FileState before = stateOf(path);
  const BlockTaker first{
      [&](const SoundShape& given) {
        shape = given;
        keeps = shape.channels == 2 && shape.frames <= kMostKept;
        const std::int64_t head[2] = {toNearest<std::int64_t>(shape.rate.value), shape.channels};
        hasher.add(head, sizeof head);
        if (made) *made = std::make_unique<Intake>(shape.channels, shape.rate, shape.frames);
      },
      [&](std::span<const float> l, std::span<const float> r) {
        hasher.add(l.data(), l.size_bytes());
        if (made) (*made)->take(l, r);
        if (!keeps) return true;
        if (std::int64_t(right.size()) <= kMostKept)
          right.insert(right.end(), r.begin(), r.end());
        else
          keeps = false; // longer than it promised
        return true;
      }};
  auto read = decodeBlocks(path, job, first);
  if (!read) return read.error();
  if (warnings) *warnings = *read;
  if (keeps) {
    hasher.add(right.data(), right.size() * sizeof(float));
  } else if (shape.channels == 2) {
    const BlockTaker second{[](const SoundShape&) {},
                            [&](std::span<const float>, std::span<const float> r) {
                              hasher.add(r.data(), r.size_bytes());
                              return true;
                            }};
    if (auto again = decodeBlocks(path, job, second); !again) return again.error();
  }
  if (stateOf(path) != before)
    return Error{"The file changed while it was heard", path.string(),
                 "It will be heard again when it is at rest."};
  return hasher.hex();
}

} // namespace

namespace {

void takeWhole(const Sound& sound, Intake& intake) {
  constexpr std::size_t kBlock = 16384;
  const auto left = sound.channel(0), right = sound.channel(1);
  for (std::size_t at = 0; at < left.size(); at += kBlock) {
    const std::size_t n = std::min(kBlock, left.size() - at);
    intake.take(left.subspan(at, n), right.subspan(at, n));
  }
  intake.finish();
}

} // namespace

Analysis analyse(const Sound& sound, JobContext& job) {
  const int channels = sound.channels();
  Intake intake(channels, sound.rate(), sound.frames().value);
  takeWhole(sound, intake);
  const EarSide side = intake.wantedSide();
  if (side == EarSide::Both) return analyse(intake, job);
  Intake again(channels, sound.rate(), sound.frames().value, side);
  takeWhole(sound, again);
  return analyse(again, job);
}

namespace {

/// A file whose sides lose each other in their sum, by one of them.
std::optional<Error> takeAgain(const std::filesystem::path& path, EarSide side, JobContext& job,
                               std::unique_ptr<Intake>& intake) {
  const BlockTaker taker{[&](const SoundShape& shape) {
                           intake = std::make_unique<Intake>(shape.channels, shape.rate,
                                                             shape.frames, side);
                         },
                         [&](std::span<const float> left, std::span<const float> right) {
                           intake->take(left, right);
                           return true;
                         }};
  if (auto read = decodeBlocks(path, job, taker); !read) return read.error();
  intake->finish();
  return std::nullopt;
}

Result<HeardFile> heardIn(const std::filesystem::path& path, JobContext& job) {
  HeardFile out;
  std::unique_ptr<Intake> intake;
  auto hash = hashOf(path, job, &intake, &out.warnings);
  if (!hash) return hash.error();
  intake->finish();
  if (const EarSide side = intake->wantedSide(); side != EarSide::Both) {
    if (auto error = takeAgain(path, side, job, intake)) return *error;
  }
  out.hash = *hash;
  out.picture = pictureOf(intake->mono());
  out.heard = analyse(*intake, job);
  if (job.cancelled()) return Error{"Listening was cancelled", path.string(), ""};
  return out;
}

} // namespace

Result<HeardFile> analyseFile(const std::filesystem::path& path, JobContext& job) {
  return guarded("Listening", path.string(), [&] { return heardIn(path, job); });
}

Result<std::string> soundHashOf(const std::filesystem::path& path, JobContext& job) {
  return guarded("Reading the sound", path.string(),
                 [&] { return hashOf(path, job, nullptr, nullptr); });
}

} // namespace tuvvo
