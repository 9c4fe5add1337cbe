#include "commands.h"
#include "base/convert.h"

#include "arguments.h"
#include "audio/decode.h"
#include "base/folder_lock.h"
#include "base/outputs.h"
#include "beat/flip.h"
#include "cut/fit.h"
#include "cut/slicing.h"
#include "formats/bundle.h"
#include "formats/shipped.h"
#include "formats/slices_out.h"
#include "listen/analyse.h"
#include "model/edits.h"
#include "play/print.h"
#include "song/timeline.h"
#include "telling.h"
#include "words/fit_words.h"

namespace tuvvo::cli {

namespace {

namespace fs = std::filesystem;

/// A file as a source with what was heard in it.
Result<Source> heardSource(const fs::path& path) {
  JobContext job;
  auto decoded = decodeFile(path, job);
  if (!decoded) return decoded.error();
  warn(path.string(), decoded->warnings);
  Source source;
  source.name = path.stem().string();
  source.origin = path.string();
  source.sound = decoded->sound;
  source.hash = source.sound->hash();
  source.heard = analyse(*source.sound, job);
  return source;
}

Outputs outputsOf(const Arguments& arguments) {
  return Outputs(arguments.has("--force") ? Replace::Yes : Replace::No);
}

CutSettings cutSettings(const std::string& by) {
  CutSettings settings;
  const auto colon = by.find(':');
  const std::string way = by.substr(0, colon);
  const std::string count = colon == std::string::npos ? "" : by.substr(colon + 1);
  const auto number = [&](int low, int high, int fallback) {
    if (count.empty()) return fallback;
    char* end = nullptr;
    const long n = std::strtol(count.c_str(), &end, 10);
    if (*end != '\0' || n < low || n > high)
      throw WrongUse{"--by " + way + ":N takes N from " + std::to_string(low) + " to " +
                     std::to_string(high)};
    return int(n);
  };
  if (way == "hits" && count.empty())
    settings.mode = CutMode::Hits;
  else if (way == "beats") {
    settings.mode = CutMode::Beats;
    settings.perBeat = number(1, 8, 1);
  } else if (way == "equal") {
    settings.mode = CutMode::Equal;
    settings.parts = number(1, 128, 8);
  } else if (way == "bars") {
    settings.mode = CutMode::Bars;
    settings.barsEach = number(1, 16, 1);
  } else if (way == "sections" && count.empty()) {
    settings.mode = CutMode::Sections;
  } else if (way == "chords" && count.empty()) {
    settings.mode = CutMode::Chords;
  } else {
    throw WrongUse{"--by takes hits, beats:N, bars:N, equal:N, sections or chords"};
  }
  return settings;
}

int runCut(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--by", "--out", "--format"}, {"--json", "--force"});
  if (arguments.words().size() != 1) throw WrongUse{"one file is needed"};
  const CutSettings settings = cutSettings(arguments.needed("--by"));
  SlicesOut options;
  options.folder = arguments.needed("--out");
  const std::string format = arguments.text("--format").value_or("wav");
  if (format != "wav" && format != "flac") throw WrongUse{"--format takes wav or flac"};
  options.format = format == "flac" ? FileFormat::Flac : FileFormat::Wav;
  auto source = heardSource(arguments.words()[0]);
  if (!source) return failed(source.error());
  if (!canCut(*source, settings.mode))
    return failed({settings.mode == CutMode::Sections ? "No sections that differ were heard"
                   : settings.mode == CutMode::Chords
                       ? "No chords were heard"
                       : "No tempo was heard, so there are no beats to cut by",
                   arguments.words()[0], "Cut it by hits or in equal parts."});
  Project project;
  Id id = 0;
  project = withSource(std::move(project), *source, &id);
  project = withCuts(std::move(project), id, settings, cutSource(*source, settings));
  JobContext job;
  Outputs outputs = outputsOf(arguments);
  const auto written = writeSlices(project, id, options, outputs, job);
  if (!written) return failed(written.error());
  Json all = Json::array();
  const Hertz rate = source->sound->rate();
  for (const auto& file : *written) {
    if (file.key == 0) { // the whole source and the instrument
      if (!arguments.has("--json")) std::printf("%s\n", shown(file.path.string()).c_str());
      continue;
    }
    const double startS = toSeconds(file.start, rate).value, endS = toSeconds(file.end, rate).value;
    all.push_back({{"file", file.path.string()},
                   {"name", nameOf(project, *findKey(project, file.key))},
                   {"startS", startS},
                   {"endS", endS},
                   {"startFrame", file.start.value},
                   {"endFrame", file.end.value}});
    if (!arguments.has("--json"))
      std::printf("%s  %.4f to %.4f s\n", shown(file.path.string()).c_str(), startS, endS);
  }
  if (arguments.has("--json")) show(all);
  return 0;
}

KeyName keyArgument(const std::string& name) {
  const auto key = keyFromName(name);
  if (!key) throw WrongUse{"\"" + name + "\" is not a key; write C, F#m, Bb"};
  return *key;
}

int runFit(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--file", "--bpm", "--key", "--to-bpm", "--to-key"},
                            {"--json"});
  if (!arguments.words().empty())
    throw WrongUse{"\"" + arguments.words()[0] + "\" is too much; use --file"};
  FitQuestion question;
  const auto toBpm = arguments.number("--to-bpm", 20, 400);
  if (!toBpm) throw WrongUse{"--to-bpm is needed"};
  question.toBpm = Bpm(*toBpm);
  if (const auto key = arguments.text("--to-key")) question.toKey = keyArgument(*key);
  if (const auto key = arguments.text("--key")) question.key = keyArgument(*key);
  if (const auto bpm = arguments.number("--bpm", 20, 400)) question.bpm = Bpm(*bpm);
  if (const auto file = arguments.text("--file")) {
    auto source = heardSource(*file);
    if (!source) return failed(source.error());
    const FitQuestion known = fitQuestion(*source, question.toBpm, question.toKey);
    if (!question.bpm) question.bpm = known.bpm;
    if (!question.key) question.key = known.key;
    question.tuning = known.tuning;
    question.hitsASecond = known.hitsASecond;
    question.rings = known.rings;
    if (!question.bpm && !question.key)
      return failed({"Neither a tempo nor a key was heard", *file, "Give --bpm or --key."});
  } else if (!question.bpm && !question.key) {
    throw WrongUse{"--file, --bpm or --key is needed"};
  }
  Json all = Json::array();
  for (const auto& row : planFit(question)) {
    all.push_back({{"method", nameOf(row.method)},
                   {"semitones", row.semitones.value},
                   {"cents", row.cents.value},
                   {"resultBpm", question.bpm ? Json(row.resultBpm.value) : Json(nullptr)},
                   {"bpmErrorPercent", row.bpmErrorPercent},
                   {"stretchPercent", row.stretchPercent},
                   {"gapMs", row.gap.value},
                   {"resultKey", row.resultKey ? Json(nameOf(*row.resultKey)) : Json(nullptr)},
                   {"keyDistance", row.keyDistance >= 0 ? Json(row.keyDistance) : Json(nullptr)},
                   {"heard", soundOf(row)}});
    if (!arguments.has("--json"))
      std::printf("%-8s %+3.0f st %+4.0f ct  %7.2f BPM (%+.2f %%)  stretch %+.1f %%  %-4s  %s\n",
                  std::string(nameOf(row.method)).c_str(), row.semitones.value, row.cents.value,
                  row.resultBpm.value, row.bpmErrorPercent, row.stretchPercent,
                  row.resultKey ? nameOf(*row.resultKey).c_str() : "-", soundOf(row).c_str());
  }
  // The question turned round: for people only, as the JSON is the list of ways.
  if (!arguments.has("--json"))
    for (const auto& move : planBeat(question))
      std::printf("or the beat to %.2f BPM (%+.2f %%): it comes in at %+.0f st\n", move.tempo.value,
                  move.percent, move.row.semitones.value);
  if (arguments.has("--json")) show(all);
  return 0;
}

/// Whatever can be refused is refused before anything is heard or written.
int runFlip(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--bpm", "--project", "--out", "--seed"},
                            {"--json", "--force"});
  if (arguments.words().size() != 1) throw WrongUse{"one file is needed"};
  const fs::path folder = arguments.needed("--project");
  FlipOptions options;
  if (const auto bpm = arguments.number("--bpm", 20, 400)) options.tempo = Bpm(*bpm);
  options.seed = toWhole<std::uint64_t>(arguments.number("--seed", 0, 1e9).value_or(1));
  Outputs outputs = outputsOf(arguments);
  outputs.protect(arguments.words()[0]);
  outputs.protect(folder);
  PrintFile file;
  if (const auto out = arguments.text("--out")) {
    file.path = *out;
    auto format = formatFromName(file.path);
    if (!format) return failed(format.error());
    file.format = *format;
    // On a copy: printing claims it once more.
    if (auto asked = Outputs(outputs).claim(file.path); !asked) return failed(asked.error());
  }
  std::error_code code;
  if (fs::exists(folder / "project.json", code) && !arguments.has("--force")) {
    Error there{"There is a project already", folder.string(),
                "Choose another name; nothing was changed."};
    there.replaces = true;
    return failed(there);
  }
  auto source = heardSource(arguments.words()[0]);
  if (!source) return failed(source.error());
  JobContext job;
  NewProject fresh = newProject(dataFolder(), job);
  warn("kit", fresh.warnings);
  auto flipped = flip(std::move(fresh.project), *source, options);
  if (!flipped) return failed(flipped.error());
  // A print that fails leaves no project.
  Result<SoundPtr> printed(SoundPtr{});
  if (!file.path.empty()) {
    printed = printSong(*flipped, file, {}, outputs, job);
    if (!printed) return failed(printed.error());
  }
  if (auto made = makeFolder(folder); !made) return failed(made.error());
  const auto lock = FolderLock::take(folder);
  if (lock.state == FolderLock::State::Busy)
    return failed({"The project is open in another window", folder.string(),
                   "Close it there, or choose another name."});
  if (auto saved = saveProject(*flipped, folder, {}); !saved) return failed(saved.error());
  const Timeline timeline = timelineOf(*flipped);
  std::printf("%s: %d bars at %.2f BPM\n", shown(folder.string()).c_str(), timeline.bars,
              flipped->tempo.value);
  if (!file.path.empty())
    std::printf("%s: %.3f s\n", shown(file.path.string()).c_str(), (*printed)->duration().value);
  return 0;
}

int runRender(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--out", "--stems", "--rate", "--bits", "--ring"}, {"--force"});
  if (arguments.words().size() != 1) throw WrongUse{"one project is needed"};
  PrintFile file;
  file.path = arguments.needed("--out");
  auto format = formatFromName(file.path);
  if (!format) return failed(format.error());
  file.format = *format;
  file.rate = Hertz(arguments.number("--rate", 8000, 192000).value_or(48000));
  const std::string bits = arguments.text("--bits").value_or("24");
  if (bits == "16")
    file.samples = SampleFormat::Int16;
  else if (bits == "24")
    file.samples = SampleFormat::Int24;
  else if (bits == "32f")
    file.samples = SampleFormat::Float32;
  else
    throw WrongUse{"--bits takes 16, 24 or 32f"};
  PrintOptions options;
  options.ring = Seconds(arguments.number("--ring", 0, 30).value_or(0));
  JobContext job;
  auto opened = openProject(arguments.words()[0], job);
  if (!opened) return failed(opened.error());
  warn(arguments.words()[0], opened->warnings);
  Outputs outputs = outputsOf(arguments);
  outputs.protect(arguments.words()[0]);
  protectSources(opened->project, outputs);
  const auto folder = arguments.text("--stems");
  if (folder) { // all names are asked for before the first is written
    Outputs asked = outputs;
    std::vector<fs::path> files = stemFiles(opened->project, *folder, file.format);
    files.insert(files.begin(), file.path);
    for (const auto& path : files)
      if (auto claimed = asked.claim(path); !claimed) return failed(claimed.error());
  }
  auto printed = printSong(opened->project, file, options, outputs, job);
  if (!printed) return failed(printed.error());
  std::printf("%s: %.3f s\n", shown(file.path.string()).c_str(), (*printed)->duration().value);
  if (folder) {
    auto stems = printStems(opened->project, *folder, file, options, outputs, job);
    if (!stems) return failed(stems.error());
    for (const auto& stem : *stems) {
      std::printf("%s\n", shown(stem.path.string()).c_str());
      if (!stem.warning.empty()) warn(stem.path.string(), {stem.warning});
    }
  }
  return 0;
}

int runCheck(const std::vector<std::string>& words) {
  const Arguments arguments(words, {}, {});
  if (arguments.words().size() != 1) throw WrongUse{"one project is needed"};
  JobContext job;
  auto report = checkProject(arguments.words()[0], job);
  if (!report) return failed(report.error());
  std::printf("%d sources, %d keys, %d patterns, %d sections\n", report->sources, report->keys,
              report->patterns, report->sections);
  for (const auto& problem : report->problems) std::printf("%s\n", shown(problem).c_str());
  if (report->problems.empty()) std::printf("Nothing is missing.\n");
  return report->problems.empty() ? 0 : 1;
}

} // namespace

const std::vector<Command>& commands() {
  static const std::vector<Command> all{
      {"listen", "listen FILE... [--json] [--jobs N]", "Says what is heard in each file.",
       runListen},
      {"crate",
       "crate scan FOLDER... [--crate DIR] [--json] | crate find WORDS... [--bpm B] [--key K] "
       "[--order reach|name|newest|tempo|length|stars] [--limit N] [--like NAME] "
       "[--crate DIR] [--json]",
       "Hears what is new in folders; finds sources, nearest to the beat first. Words: a name, "
       "\"is loop\", \"85-95 bpm\", \"near Am\", \"4 bars\", \"chord minor held 2\" and so on.",
       runCrate},
      {"cut",
       "cut FILE --by hits|beats:N|bars:N|equal:N|sections|chords --out DIR [--format wav|flac] "
       "[--force] [--json]",
       "Writes slices as 24-bit files with tempo and key in their names, the whole source with a "
       "cue at every slice, and an SFZ instrument.",
       runCut},
      {"fit", "fit [--file FILE | --bpm B --key K] --to-bpm B [--to-key K] [--json]",
       "Ways to bring a source to a beat's tempo and key, best first.", runFit},
      {"flip", "flip FILE [--bpm B] [--seed N] --project OUT.tuvvo [--out OUT.wav] [--force]",
       "A starter beat from one source, end to end.", runFlip},
      {"render",
       "render PROJECT.tuvvo --out OUT.wav|flac|ogg|mp3|opus [--stems DIR] [--rate HZ] [--bits "
       "16|24|32f] [--ring S] [--force]",
       "Prints a project's song. A file that is there is written over only with --force.",
       runRender},
      {"check", "check PROJECT.tuvvo",
       "Opens a project, verifies its sounds and lineage, and says what is missing.", runCheck},
      {"parameters", "parameters [--json]",
       "Everything that can be turned, with its id, unit, range and standard.", runParameters},
  };
  return all;
}

} // namespace tuvvo::cli
