// A crate of 100 000 sources: filled, opened, searched.
#include "crate_bench.h"

#include "audio/decode.h"
#include "audio/encode.h"
#include "base/random.h"
#include "crate/scanner.h"
#include "shape/fit_to_beat.h"

#include <QTemporaryDir>
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <thread>

namespace tuvvo {

namespace {

using Clock = std::chrono::steady_clock;
double millisecondsSince(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

constexpr int kSources = 100'000;

std::size_t below(Random& random, std::size_t end) {
  return std::size_t(random.unit() * double(end));
}

/// As the names of sounds are: two or three of a few hundred words and a figure.
std::string nameOf(Random& random, int number) {
  static const char* const words[] = {"rain",  "quay",  "lantern", "ferry",  "gate",  "night",
                                      "brass", "break", "dusty",   "soft",   "loop",  "pier",
                                      "glass", "rope",  "engine",  "signal", "choir", "salt"};
  std::string name;
  for (int i = 0; i < 3; ++i)
    name += std::string(words[below(random, std::size(words))]) +
            (below(random, 3) == 0 ? std::to_string(below(random, 300)) : "") + " ";
  return name + std::to_string(number);
}

HeardFile heardFile(Random& random, int number) {
  HeardFile out;
  char hash[40];
  std::snprintf(hash, sizeof hash, "%032x", number);
  out.hash = hash;
  out.picture.assign(600, 100);
  Analysis& h = out.heard;
  h.duration = Seconds(1 + 20 * random.unit());
  h.rate = Hertz(44100);
  h.channels = 2;
  h.kind = {SoundKind(below(random, kSoundKinds)), 0.8};
  if (below(random, 4) != 0) h.tempo = TempoHeard{Bpm(60 + 120 * random.unit()), 0.8, {}, {}};
  if (below(random, 3) != 0)
    h.key = KeyHeard{{int(below(random, 12)), below(random, 2) == 0}, 0.8, {}, Cents(0), ""};
  const char* const chords[] = {"Am", "F", "C", "Gm7", "Dmaj7"};
  for (int i = 0; i < 4; ++i)
    h.chords.push_back({Seconds(i), Seconds(i + 1), chords[below(random, 5)], ""});
  return out;
}

} // namespace

void benchFirstFit(Report report, const std::filesystem::path& data) {
  // A thousand sounds: what ships, each at thirty sample rates, which moves its tempo and its key.
  namespace fs = std::filesystem;
  QTemporaryDir dir;
  const fs::path home = dir.path().toStdString(), folder = home / "thousand";
  fs::create_directories(folder);
  std::vector<SoundPtr> sounds;
  JobContext job;
  for (const char* part : {"service", "demo", "kit"})
    for (const auto& entry : fs::directory_iterator(data / part))
      if (looksLikeSound(entry.path()))
        if (const auto decoded = decodeFile(entry.path(), job)) sounds.push_back(decoded->sound);
  for (int i = 0; i < 1000; ++i) {
    const Sound& sound = *sounds[std::size_t(i) % sounds.size()];
    Channels channels;
    for (int c = 0; c < sound.channels(); ++c)
      channels.emplace_back(sound.channel(c).begin(), sound.channel(c).end());
    const double rate = std::round(sound.rate().value * std::exp2((i / 33 - 15) / 60.0));
    (void)encodeFile(Sound(std::move(channels), Hertz(rate)),
                     folder / ("sound " + std::to_string(i) + ".wav"),
                     {FileFormat::Wav, SampleFormat::Int16});
  }
  const auto start = Clock::now();
  auto crate = std::move(std::move(Crate::open(home / "crate")).value().crate);
  (void)crate->addFolder(folder.string());
  Scanner scanner(*crate, {0, Milliseconds(0), 64});
  scanner.scan({folder});
  double rows = 0, fits = 0;
  const BeatNow beat{Bpm(92), keyFromName("Am")};
  while (fits == 0 && millisecondsSince(start) < 120'000) {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    const auto found = crate->find({}, CrateOrder::Reach, beat);
    if (rows == 0 && !found->ids.empty()) rows = millisecondsSince(start);
    if (found->ids.empty() || crate->reachOf(found->ids[0], beat) > 2) continue;
    Source source = (*crate->item(found->ids[0]))->source;
    const auto decoded = decodeFile(source.origin, job, {}, Seconds(40));
    source.sound = decoded->sound;
    if (fitToBeat(source, *wayToHear(fitQuestion(source, beat.tempo, beat.key)),
                  {beat.tempo, 4, Hertz(48000)}, job))
      fits = millisecondsSince(start);
  }
  report("a folder of 1000 files: first rows in the list", rows, "ms", "< 1000", rows < 1000);
  report("the same: the first that fits, ready to sound", fits / 1000, "s", "< 60",
         fits > 0 && fits < 60'000);
  scanner.wait();
  report("the same: all of them heard", millisecondsSince(start) / 1000, "s", "-", true);
}

void benchCrate(Report report) {
  QTemporaryDir dir;
  const std::filesystem::path place = dir.path().toStdString() + "/crate";
  Random random(7);
  auto opened = Crate::open(place);
  auto crate = std::move(std::move(opened).value().crate);
  const auto filling = Clock::now();
  for (int first = 0; first < kSources; first += 500) {
    std::vector<FileLook> looks;
    for (int i = first; i < first + 500; ++i)
      looks.push_back(
          {"/sounds/" + std::to_string(i / 1000) + "/" + nameOf(random, i) + ".wav", 1000 + i, 1});
    (void)crate->sawFiles(looks);
  }
  report("rows of a scan: 500 files noted", millisecondsSince(filling) / (kSources / 500), "ms",
         "< 1000", millisecondsSince(filling) / (kSources / 500) < 1000);
  const auto waiting = crate->waiting();
  for (const auto& file : *waiting)
    (void)crate->storeHeard(file.file, heardFile(random, int(file.file)), {});
  std::printf("%-58s %10.2f s\n", "filling a crate of 100 000", millisecondsSince(filling) / 1000);
  crate.reset();
  const auto start = Clock::now();
  crate = std::move(std::move(Crate::open(place)).value().crate);
  report("opening a crate of 100 000", millisecondsSince(start), "ms", "-", true);

  const BeatNow beat{Bpm(92), keyFromName("Am")};
  const auto first = Clock::now();
  (void)crate->find({}, CrateOrder::Reach, beat);
  report("the first order by reach for another beat", millisecondsSince(first), "ms", "-", true);
  std::vector<std::pair<double, std::string>> times;
  for (const char* words :
       {"", "r", "ra", "rain", "rain qu", "rain quay 12", "is loop beat bpm", "near beat 85-95 bpm",
        "chord minor held 1", "chord Am rope", "4 bars", "is break is unused", "zzz"})
    for (CrateOrder order : {CrateOrder::Reach, CrateOrder::Name, CrateOrder::Tempo}) {
      const auto begin = Clock::now();
      const auto found = crate->find(readQuery(words), order, beat);
      for (std::size_t i = 0; i < std::min<std::size_t>(found->ids.size(), 20); ++i)
        (void)crate->row(found->ids[i]); // what a list shows at once
      times.emplace_back(millisecondsSince(begin),
                         "\"" + std::string(words) + "\" in order " + std::to_string(int(order)));
    }
  std::sort(times.begin(), times.end());
  for (std::size_t i = times.size() - 4; i < times.size(); ++i)
    std::printf("  (slow: %s, %.0f ms)\n", times[i].second.c_str(), times[i].first);
  const double middle = times[times.size() / 2].first;
  const double late = times[times.size() * 95 / 100].first;
  report("search of 100 000 sources with 20 rows: middle", middle, "ms", "< 50", middle < 50);
  report("search of 100 000 sources with 20 rows: 95th percentile", late, "ms", "< 50", late < 50);
}

} // namespace tuvvo
