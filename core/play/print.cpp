#include "play/print.h"

#include "audio/resample.h"
#include "base/guard.h"
#include "base/new_file.h"
#include "base/text.h"
#include "play/engine.h"

#include <algorithm>
#include <set>

namespace tuvvo {

namespace {

constexpr std::int64_t kPrintFade = 240;

Result<SoundPtr> atRate(SoundPtr sound, Hertz rate) {
  if (rate == sound->rate()) return sound;
  return resample(*sound, rate);
}

} // namespace

Result<SoundPtr> print(const Score& score, const PrintOptions& options, JobContext& job) {
  if (score.length.value <= 0)
    return Error{"There is nothing to print", "", "Put at least one section into the song."};
  const double ringS = std::clamp(options.ring.value, 0.0, 30.0);
  const std::int64_t total = score.length.value + toFrames(Seconds(ringS), kEngineRate).value;
  auto once = std::make_shared<Score>(score);
  once->loops = false;
  auto engine = std::make_unique<Engine>(nullptr, SincBank::Make::AsNeeded);
  if (!options.limiter) engine->setLimiterOff();
  engine->setScore(once);
  Engine::Command play{Engine::Command::Kind::Play};
  engine->process(nullptr, nullptr, 0); // the score is taken, and how late it comes is known
  engine->send(play);

  const std::int64_t late = engine->latency();
  Samples left(std::size_t(total + late)), right(std::size_t(total + late));
  constexpr std::int64_t block = 1024;
  for (std::int64_t at = 0; at < total + late; at += block) {
    if (job.cancelled()) return Error{"Printing was cancelled", "", ""};
    const auto n = int(std::min(block, total + late - at));
    engine->process(left.data() + at, right.data() + at, n);
    Engine::Report report{};
    while (engine->nextReport(report)) {
    }
    job.report(double(at) / double(total));
  }
  for (auto* channel : {&left, &right}) {
    channel->erase(channel->begin(), channel->begin() + std::ptrdiff_t(late));
    // Only what really sounds on past the end is faded: a print that ends in silence is untouched.
    const std::int64_t fade = std::min(kPrintFade, total);
    if (std::abs(channel->back()) > 1e-4f)
      for (std::int64_t i = 0; i < fade; ++i)
        (*channel)[std::size_t(total - 1 - i)] *= float(i) / float(fade);
  }
  Channels channels;
  channels.push_back(std::move(left));
  channels.push_back(std::move(right));
  return SoundPtr(std::make_shared<Sound>(std::move(channels), kEngineRate));
}

Result<Score> bakedSong(const Project& project, CompileOptions options, BakeCache& bakeCache,
                        JobContext& job) {
  const auto baked = bakeCache.bakeAll(bakesOf(project), job);
  if (!baked) return baked.error();
  options.baked = [&baked](const BakeOrder& order) {
    const auto found = baked->find(order.name);
    return found == baked->end() ? Baked{} : found->second;
  };
  return compileSong(project, options);
}

namespace {

Result<SoundPtr> printAll(const Project& project, const PrintFile& file,
                          const PrintOptions& options, Outputs& outputs, JobContext& job) {
  const auto replace = outputs.claim(file.path);
  if (!replace) return replace.error();
  BakeCache own(1, {});
  const auto score = bakedSong(project, {}, options.bakeCache ? *options.bakeCache : own, job);
  if (!score) return score.error();
  auto printed = print(*score, options, job);
  if (!printed) return printed;
  auto sound = atRate(*printed, file.rate);
  if (!sound) return sound;
  auto written = encodeFile(**sound, file.path, {file.format, file.samples, {}, replace.value()});
  if (!written) return written.error();
  return sound;
}

} // namespace

Result<SoundPtr> printSong(const Project& project, const PrintFile& file,
                           const PrintOptions& options, Outputs& outputs, JobContext& job) {
  return guarded("Printing", file.path.string(),
                 [&] { return printAll(project, file, options, outputs, job); });
}

void protectSources(const Project& project, Outputs& outputs) {
  for (const auto& source : project.sources) outputs.protect(source->origin);
}

std::string fileNameOf(const std::string& name, std::size_t mostBytes) {
  std::string out;
  for (char c : name)
    out +=
        std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos || (unsigned char)(c) < 32
            ? '-'
            : c;
  while (!out.empty() && (out.back() == ' ' || out.back() == '.')) out.pop_back();
  while (!out.empty() && (out.front() == ' ' || out.front() == '.')) out.erase(0, 1);
  if (out.empty()) return "untitled";
  out = beginningOf(out, mostBytes);
  while (out.back() == ' ' || out.back() == '.') out.pop_back();
  return out;
}

namespace {

constexpr const char* kEndings[] = {".wav", ".flac", ".ogg", ".opus", ".mp3"};

/// File names of the parts' stems without their endings, each once.
std::vector<std::string> stemNames(const Project& project) {
  std::vector<std::string> out;
  std::set<std::string> used;
  for (const auto& part : project.parts) {
    std::string name = fileNameOf(part.name);
    for (int n = 2; !used.insert(name).second; ++n)
      name = fileNameOf(part.name, kLongestFileName - 12) + " " + std::to_string(n);
    out.push_back(name);
  }
  return out;
}

} // namespace

std::vector<std::filesystem::path>
stemFiles(const Project& project, const std::filesystem::path& folder, FileFormat format) {
  std::vector<std::filesystem::path> out;
  for (const auto& name : stemNames(project)) {
    out.push_back(folder / (name + kEndings[std::size_t(format)]));
    if (format != FileFormat::Wav && format != FileFormat::Ogg)
      out.push_back(folder / (name + ".wav"));
  }
  return out;
}

namespace {

Result<std::vector<PrintedStem>> printEach(const Project& project,
                                           const std::filesystem::path& folder,
                                           const PrintFile& like, const PrintOptions& options,
                                           Outputs& outputs, JobContext& job) {
  if (auto made = makeFolder(folder); !made) return made.error();
  removeLeftovers(folder);
  const auto names = stemNames(project);
  std::vector<PrintedStem> stems;
  PrintOptions dry = options;
  dry.limiter = false;
  BakeCache own(1, {});
  for (const auto& part : project.parts) {
    CompileOptions only;
    only.onlyPart = part.id;
    const auto score = bakedSong(project, only, options.bakeCache ? *options.bakeCache : own, job);
    if (!score) return score.error();
    auto printed = print(*score, dry, job);
    if (!printed) return printed.error();
    auto sound = atRate(*printed, like.rate);
    if (!sound) return sound.error();
    PrintedStem stem;
    stem.part = part.name;
    FileFormat format = like.format;
    SampleFormat samples = like.samples;
    const float peak = peakOf(**sound, Frames(0), (*sound)->frames());
    const bool integers = format == FileFormat::Flac || samples != SampleFormat::Float32;
    if (peak > 1.0f && integers && format != FileFormat::Ogg) {
      format = FileFormat::Wav;
      samples = SampleFormat::Float32;
      stem.warning = part.name + " passes full scale alone and was written as 32-bit float.";
    }
    stem.path = folder / (names[stems.size()] + kEndings[std::size_t(format)]);
    const auto replace = outputs.claim(stem.path);
    if (!replace) return replace.error();
    auto written = encodeFile(**sound, stem.path, {format, samples, {}, replace.value()});
    if (!written) return written.error();
    stems.push_back(std::move(stem));
  }
  return stems;
}

} // namespace

Result<std::vector<PrintedStem>> printStems(const Project& project,
                                            const std::filesystem::path& folder,
                                            const PrintFile& like, const PrintOptions& options,
                                            Outputs& outputs, JobContext& job) {
  return guarded("Printing stems", folder.string(),
                 [&] { return printEach(project, folder, like, options, outputs, job); });
}

} // namespace tuvvo
