#include "model/treatment.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstring>

namespace tuvvo {

namespace {

FigureKind beats(const char* id, const char* name, double standard, double most = 16) {
  return {id, name, "beats", 0.0625, most, standard, 0.25, 4, {}};
}
FigureKind choice(const char* id, const char* name, double standard,
                  std::vector<const char*> words) {
  const auto last = double(words.size() - 1);
  return {id, name, "", 0, last, standard, 1, 0, std::move(words)};
}

std::vector<TreatmentType> makeTypes() {
  std::vector<TreatmentType> types;
  types.push_back({"reverse", "Reverse", "last to first", {}});
  types.push_back(
      {"alternate",
       "Alternate",
       "forward and reversed in turn",
       {beats("everyBeats", "every", 1, 8), choice("first", "first", 0, {"forward", "reversed"})}});
  types.push_back({"speed",
                   "Half or double time",
                   "the beginning at half or twice its speed, over bars",
                   {choice("factor", "to", 0, {"half time", "double time"}),
                    {"bars", "over", "bars", 0, 16, 0, 1, 0, {}},
                    choice("school", "by", 1, {"repitch", "stretch", "re-space"})}});
  types.push_back({"octave",
                   "Octave copy",
                   "a copy an octave or two away, under or over it",
                   {{"octaves", "octaves", "", -2, 2, -1, 1, 0, {}},
                    {"levelDb", "level", "dB", -30, 6, -6, 0.5, 1, {}}}});
  types.push_back({"slow-down",
                   "Slow down",
                   "its end runs down to a stop",
                   {beats("beats", "over", 2), {"curve", "curve", "", 0.2, 5, 1, 0.1, 1, {}}}});
  types.push_back({"start-up",
                   "Start up",
                   "its beginning comes up from a stop",
                   {beats("beats", "over", 1), {"curve", "curve", "", 0.2, 5, 1, 0.1, 1, {}}}});
  types.push_back({"stutter",
                   "Stutter",
                   "its beginning again and again, then it goes on",
                   {beats("divisionBeats", "each", 0.25, 4),
                    {"count", "times", "", 2, 64, 4, 1, 0, {}},
                    {"rampDb", "ramp", "dB", -24, 24, 0, 1, 0, {}},
                    {"pitchSt", "pitch", "st", -24, 24, 0, 1, 0, {}}}});
  types.push_back({"swell",
                   "Reversed swell",
                   "its tail turned round, rising into its first frame",
                   {beats("beats", "over", 2),
                    choice("from", "of", 1, {"its own decay", "its reverberation"}),
                    {"tailS", "tail", "s", 0.2, 8, 2, 0.1, 1, {}},
                    choice("then", "then", 0, {"the sound", "nothing"})}});
  types.push_back({"fade",
                   "Fade",
                   "comes in or goes out",
                   {choice("where", "fade", 1, {"in", "out"}),
                    beats("beats", "over", 2, 64),
                    {"curve", "curve", "", 0.2, 5, 1, 0.1, 1, {}}}});
  types.push_back(
      {"chop",
       "Chop and reorder",
       "pieces in another order, by a seed or by hand",
       {beats("divisionBeats", "each", 0.5, 8), {"seed", "seed", "", 1, 9999, 1, 1, 0, {}}}});
  types.push_back({"isolate",
                   "Hits or tones",
                   "hits apart from tones",
                   {choice("keep", "keep", 0, {"hits", "tones"}),
                    {"restDb", "the rest", "dB", -60, 0, -60, 1, 0, {}}}});
  types.push_back({"sides",
                   "Centre or sides",
                   "what both channels share, or what they do not",
                   {choice("keep", "keep", 0, {"centre", "sides"})}});
  types.push_back({"band",
                   "Band",
                   "low, middle or high; together they are the whole again",
                   {choice("keep", "keep", 0, {"low", "middle", "high"}),
                    {"lowHz", "low to", "Hz", 40, 2000, 200, 10, 0, {}},
                    {"highHz", "high from", "Hz", 400, 16000, 2500, 100, 0, {}}}});
  types.push_back(
      {"", "Unknown", "of a newer version: it is kept as it is, and is not heard here", {}});
  return types;
}

const std::vector<TreatmentType>& types() {
  static const auto all = makeTypes();
  return all;
}

std::string written(const FigureKind& figure, double value) {
  if (!figure.words.empty()) return figure.words[placeIn(value + 0.5, figure.words.size())];
  char text[48];
  if (std::strcmp(figure.unit, "beats") == 0 && value < 1 &&
      std::abs(1 / value - std::round(1 / value)) < 1e-9)
    std::snprintf(text, sizeof text, "1/%d beat", toWhole<int>(std::round(1 / value)));
  else
    std::snprintf(text, sizeof text, "%g%s%s", value, *figure.unit ? " " : "", figure.unit);
  return text;
}

} // namespace

const TreatmentType& typeOf(TreatmentKind kind) { return types()[std::size_t(kind)]; }

std::optional<TreatmentKind> treatmentFromId(const std::string& id) {
  for (std::size_t i = 0; i < kTreatments; ++i)
    if (id == types()[i].id) return TreatmentKind(i);
  return std::nullopt;
}

Treatment treatment(TreatmentKind kind) {
  Treatment out;
  out.kind = kind;
  const auto& figures = typeOf(kind).figures;
  for (std::size_t i = 0; i < figures.size(); ++i) out.figures[i] = figures[i].standard;
  return out;
}

void clamp(Treatment& t) {
  const auto& figures = typeOf(t.kind).figures;
  for (std::size_t i = 0; i < kMostFigures; ++i) {
    if (i >= figures.size() || !std::isfinite(t.figures[i])) t.figures[i] = 0;
    if (i >= figures.size()) continue;
    t.figures[i] = std::clamp(t.figures[i], figures[i].least, figures[i].most);
    if (!figures[i].words.empty()) t.figures[i] = std::round(t.figures[i]);
  }
  if (t.kind == TreatmentKind::Band)
    t.figures[kBandHigh] = std::max(t.figures[kBandHigh], t.figures[kBandLow] * 1.5);
  if (t.kind != TreatmentKind::Chop || t.order.size() > kMostPieces) t.order.clear();
  std::erase_if(t.order, [](int piece) { return piece < 0 || piece >= int(kMostPieces); });
}

std::string describe(const Treatment& t) {
  const auto& type = typeOf(t.kind);
  std::string out = type.name;
  for (std::size_t i = 0; i < type.figures.size(); ++i) {
    const bool bars = t.kind == TreatmentKind::Speed && i == kSpeedBars;
    if (bars && t.figures[i] < 0.5) continue;
    if (t.kind == TreatmentKind::Chop && i == kChopSeed && !t.order.empty()) {
      out += ", by hand";
      continue;
    }
    out += i == 0 ? ": " : ", ";
    const auto& figure = type.figures[i];
    if (figure.words.empty() && !(i == 0)) out += std::string(figure.name) + " ";
    out += written(figure, t.figures[i]);
  }
  return out;
}

} // namespace tuvvo
