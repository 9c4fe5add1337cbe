#include "arguments.h"
#include "base/convert.h"
#include "base/jobs.h"
#include "commands.h"
#include "formats/analysis_json.h"
#include "listen/analyse.h"
#include "listen/chords.h"
#include "telling.h"
#include "words/fault_words.h"

namespace tuvvo::cli {

namespace {

std::string plain(const Analysis& h) {
  char text[400];
  std::string out;
  std::snprintf(text, sizeof text, "  %s (%.0f %% sure), %.2f s, %.0f Hz, %s\n",
                std::string(nameOf(h.kind.kind)).c_str(), h.kind.confidence * 100, h.duration.value,
                h.rate.value, h.channels == 1 ? "mono" : "stereo");
  out += text;
  if (h.tempo) {
    std::snprintf(text, sizeof text, "  %.2f BPM (confidence %.2f), %s", h.tempo->bpm.value,
                  h.tempo->confidence, h.tempo->steady ? "steady" : "drifting");
    out += text;
    if (!h.tempo->steady) {
      std::snprintf(text, sizeof text, " by %.0f ms", h.tempo->drift.value);
      out += text;
    }
    for (const auto& a : h.tempo->alternatives) {
      std::snprintf(text, sizeof text, "; %s %.2f", a.relation.c_str(), a.bpm.value);
      out += text;
    }
    out += '\n';
  } else {
    out += "  no tempo\n";
  }
  if (h.loop) out += "  a loop of " + std::to_string(h.loop->bars) + " bars\n";
  if (h.key) {
    std::snprintf(text, sizeof text, "  %s%s (confidence %.2f), tuned %+.1f ct",
                  nameOf(h.key->name).c_str(),
                  h.key->mode.empty() ? "" : (", " + h.key->mode).c_str(), h.key->confidence,
                  h.key->tuning.value);
    out += text;
    if (h.key->confidence < 0.5 && !h.key->alternatives.empty())
      out += "; unsure, or " + nameOf(h.key->alternatives.front());
    out += '\n';
  } else if (h.root.value > 0) {
    std::snprintf(text, sizeof text, "  rings at %.1f Hz, %s\n", h.root.value,
                  noteNameOf(h.root).c_str());
    out += text;
  } else {
    out += "  no key\n";
  }
  if (h.tempo && (h.meter != 4 || h.compound)) out += "  bars of " + meterName(h) + "\n";
  if (!h.chords.empty()) {
    // The first dozen; the whole is in --json, with the bass under each.
    out += "  chords";
    int shown = 0;
    for (const auto& chord : overAnyBass(h.chords))
      if (shown++ < 12) out += " " + chord.name + (chord.confidence < 0.5 ? "?" : "");
    out += shown > 12 ? " …\n" : "\n";
  }
  if (!h.sections.empty()) {
    out += "  sections";
    for (const auto& section : h.sections) {
      std::snprintf(text, sizeof text, " %s %.1f s", section.label.c_str(), section.start.value);
      out += text;
    }
    out += '\n';
  }
  std::array<int, 4> hits{};
  for (const auto& onset : h.onsets)
    for (HitClass hit : onset.hits) ++hits[std::size_t(hit)];
  std::snprintf(text, sizeof text, "  %d kicks, %d snares, %d hats, %d others\n", hits[0], hits[1],
                hits[2], hits[3]);
  out += text;
  std::snprintf(text, sizeof text, "  %zu onsets, %.1f LUFS, true peak %.1f dBTP\n",
                h.onsets.size(), h.loudness.integratedLufs, h.loudness.truePeakDbtp);
  out += text;
  for (const auto& fault : h.faults) out += "  " + sentenceOf(fault) + "\n";
  return out;
}

} // namespace

int runListen(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--jobs"}, {"--json"});
  if (arguments.words().empty()) throw WrongUse{"a file is needed"};
  const auto jobs = toWhole<int>(arguments.number("--jobs", 1, 64).value_or(1));
  std::vector<std::optional<Result<Analysis>>> heard(arguments.words().size());
  {
    JobPool pool(jobs);
    for (std::size_t i = 0; i < heard.size(); ++i)
      pool.run([&, i](JobContext& job) {
        auto file = analyseFile(arguments.words()[i], job);
        if (file) warn(arguments.words()[i], file->warnings);
        heard[i] = file ? Result<Analysis>(file->heard) : Result<Analysis>(file.error());
      });
    pool.waitIdle();
  }
  int code = 0;
  Json all = Json::array();
  for (std::size_t i = 0; i < heard.size(); ++i) {
    const auto& result = *heard[i];
    if (!result) {
      code = failed(result.error());
      continue;
    }
    if (arguments.has("--json")) {
      Json one{{"file", arguments.words()[i]}};
      one.update(toJson(*result));
      for (std::size_t f = 0; f < result->faults.size(); ++f)
        one["faults"][f]["text"] = sentenceOf(result->faults[f]);
      all.push_back(std::move(one));
    } else {
      std::printf("%s\n%s", shown(arguments.words()[i]).c_str(), plain(*result).c_str());
    }
  }
  if (arguments.has("--json")) show(all);
  return code;
}

} // namespace tuvvo::cli
