#include "model/pattern_parameters.h"

#include "base/convert.h"

#include <algorithm>
#include <array>

namespace tuvvo {

namespace {

constexpr double kPeoplesTicks = 960; ///< of a beat, as people know them
constexpr double kOurTicks = double(kTicksPerBeat) / kPeoplesTicks;

constexpr std::array<std::string_view, 7> kAccents{
    "no accent", "on the beats", "two and four", "off-beats", "the one", "rising", "falling"};

/// A share of one, shown in hundredths.
constexpr Parameter percent(std::string_view id, std::string_view name, double least, double most,
                            double standard, std::string_view about) {
  return {.id = id,
          .name = name,
          .unit = Unit::Percent,
          .least = least,
          .most = most,
          .standard = standard,
          .step = 1,
          .decimals = 0,
          .about = about};
}
constexpr Parameter count(std::string_view id, std::string_view name, double least, double most,
                          double standard, std::string_view about) {
  return {.id = id,
          .name = name,
          .least = least,
          .most = most,
          .standard = standard,
          .step = 1,
          .decimals = 0,
          .about = about};
}
constexpr Parameter milliseconds(std::string_view id, std::string_view name, double least,
                                 double most, double reach, std::string_view about) {
  return {.id = id,
          .name = name,
          .unit = Unit::Milliseconds,
          .least = least,
          .most = most,
          .standard = 0,
          .step = 1,
          .decimals = 0,
          .reach = reach,
          .about = about};
}
constexpr Parameter semitones(std::string_view id, std::string_view name, std::string_view about) {
  return {.id = id,
          .name = name,
          .unit = Unit::Semitones,
          .least = -48,
          .most = 48,
          .standard = 0,
          .step = 1,
          .decimals = 0,
          .reach = 24,
          .about = about};
}
constexpr Parameter reaching(double reach, Parameter parameter) {
  parameter.reach = reach;
  return parameter;
}

constexpr Parameter usually(double standard, Parameter parameter) {
  parameter.standard = standard;
  return parameter;
}

template <class Thing, auto member> constexpr FigureOf<Thing> share(const Parameter& parameter) {
  return {parameter, [](const Thing& thing) { return thing.*member * 100; },
          [](Thing& thing, double value) { thing.*member = value / 100; }};
}
template <class Thing, auto member> constexpr FigureOf<Thing> quantity(const Parameter& parameter) {
  return {parameter, [](const Thing& thing) { return double((thing.*member).value); },
          [](Thing& thing, double value) { (thing.*member).value = value; }};
}
template <class Thing, auto member> constexpr FigureOf<Thing> number(const Parameter& parameter) {
  return {parameter, [](const Thing& thing) { return double(thing.*member); },
          [](Thing& thing, double value) { thing.*member = value; }};
}

const std::array kHit{
    share<Hit, &Hit::velocity>(
        percent("hit.velocity", "Velocity", 2, 100, 80, "How hard it is played")),
    quantity<Hit, &Hit::microTiming>(milliseconds("hit.micro-timing", "Early or late", -200, 200,
                                                  60, "Late (+) or early (−) of its line")),
    quantity<Hit, &Hit::tune>(semitones("hit.tune", "Tune", "Semitones on top of its key's tune")),
    HitParameter{{.id = "hit.length",
                  .name = "Length",
                  .unit = Unit::Beats,
                  .least = 0,
                  .most = 1e6,
                  .standard = 0,
                  .step = 0.125,
                  .decimals = 3,
                  .reach = 4,
                  .about = "How long a gated sound is held; 0: to its own end"},
                 [](const Hit& hit) { return inBeats(hit.length); },
                 [](Hit& hit, double value) {
                   hit.length = Beats(toNearest<std::int64_t>(value * double(kTicksPerBeat)));
                 }},
    share<Hit, &Hit::pan>(
        percent("hit.pan", "Pan", -100, 100, 0, "Left (−) or right (+) of its key's place")),
    share<Hit, &Hit::start>(
        percent("hit.start", "Start", 0, kLatestStart * 100, 0, "Where in the sound it begins")),
    number<Hit, &Hit::bright>({.id = "hit.brightness",
                               .name = "Brightness",
                               .unit = Unit::Octaves,
                               .least = -10,
                               .most = 10,
                               .standard = 0,
                               .step = 0.1,
                               .decimals = 1,
                               .reach = 8,
                               .about = "Octaves by which its key's low-pass moves"}),
    HitParameter{
        reaching(16, count("hit.roll", "Roll", 1, kMostRoll, 1, "How often it plays in a row")),
        [](const Hit& hit) { return double(hit.roll.hits); },
        [](Hit& hit, double value) { hit.roll.hits = toNearest<int>(value); }},
    HitParameter{reaching(200, percent("hit.roll-ends-at", "Roll ends at", 2, 400, 100,
                                       "Velocity of its last hit")),
                 [](const Hit& hit) { return hit.roll.endLevel * 100; },
                 [](Hit& hit, double value) { hit.roll.endLevel = value / 100; }},
    HitParameter{semitones("hit.roll-tune", "Roll tune", "Tune of its last hit"),
                 [](const Hit& hit) { return hit.roll.endTune.value; },
                 [](Hit& hit, double value) { hit.roll.endTune = Semitones(value); }},
    HitParameter{milliseconds("hit.flam", "Flam", 0, 100, 60, "A softer hit so long before it"),
                 [](const Hit& hit) { return hit.flam.before.value; },
                 [](Hit& hit, double value) { hit.flam.before = Milliseconds(value); }},
    HitParameter{percent("hit.flam-level", "Flam level", 2, 100, 50, "Velocity of the softer hit"),
                 [](const Hit& hit) { return hit.flam.level * 100; },
                 [](Hit& hit, double value) { hit.flam.level = value / 100; }},
    HitParameter{percent("hit.chance", "Chance", 0, 100, 100,
                         "How often it plays at all; the same every time the beat is played"),
                 [](const Hit& hit) { return hit.condition.chance * 100; },
                 [](Hit& hit, double value) { hit.condition.chance = value / 100; }},
    HitParameter{
        count("hit.every", "Every", 1, kMostRounds, 1, "Plays once in so many times round"),
        [](const Hit& hit) { return double(hit.condition.every); },
        [](Hit& hit, double value) {
          hit.condition.every = toNearest<int>(value);
          hit.condition.turn = std::min(hit.condition.turn, hit.condition.every);
        }},
    HitParameter{count("hit.on-round", "On round", 1, kMostRounds, 1, "Which of those rounds"),
                 [](const Hit& hit) { return double(hit.condition.turn); },
                 [](Hit& hit, double value) {
                   hit.condition.turn = std::min(toNearest<int>(value), hit.condition.every);
                 }},
    HitParameter{usually(-1, milliseconds("hit.glide", "Glide", -1, 2000, 500,
                                          "How long it slides into its pitch; −1: as its key "
                                          "does")),
                 [](const Hit& hit) { return hit.glide.time.value; },
                 [](Hit& hit, double value) { hit.glide.time = Milliseconds(value); }},
    HitParameter{semitones("hit.glide-from", "Glide from",
                           "Semitones off its pitch where it begins, if nothing of its key sounds"),
                 [](const Hit& hit) { return hit.glide.from.value; },
                 [](Hit& hit, double value) { hit.glide.from = Semitones(value); }},
    HitParameter{count("hit.treated-every", "Treated every", 1, kMostRounds, 1,
                       "Its treatments act once in so many times round"),
                 [](const Hit& hit) { return double(hit.treatments.list().every); },
                 [](Hit& hit, double value) {
                   HitTreatments::List list = hit.treatments.list();
                   list.every = toNearest<int>(value);
                   list.turn = std::min(list.turn, list.every);
                   hit.treatments = HitTreatments(std::move(list));
                 }},
    HitParameter{
        count("hit.treated-on-round", "Treated in", 1, kMostRounds, 1, "Which of those rounds"),
        [](const Hit& hit) { return double(hit.treatments.list().turn); },
        [](Hit& hit, double value) {
          HitTreatments::List list = hit.treatments.list();
          list.turn = std::min(toNearest<int>(value), list.every);
          hit.treatments = HitTreatments(std::move(list));
        }},
};

const std::array kFeel{
    number<Feel, &Feel::swing8>(
        percent("feel.swing-8ths", "Swing 8ths", 50, 80, 50,
                "Where the second of two eighths starts: 50 straight, 67 a triplet")),
    number<Feel, &Feel::swing16>(
        percent("feel.swing-16ths", "Swing 16ths", 50, 80, 50,
                "Where the second of two sixteenths starts: 50 straight, 67 a triplet")),
    quantity<Feel, &Feel::microTiming>(
        milliseconds("feel.micro-timing", "Timing", -200, 200, 60,
                     "The whole part late (+) or early (−), in milliseconds")),
    FeelParameter{{.id = "feel.lag",
                   .name = "Lag",
                   .unit = Unit::Ticks,
                   .least = -double(kMostLag.value) / kOurTicks,
                   .most = double(kMostLag.value) / kOurTicks,
                   .standard = 0,
                   .step = 1,
                   .decimals = 0,
                   .reach = 120,
                   .about = "The same in ticks, 960 to a beat: it follows the tempo"},
                  [](const Feel& feel) { return double(feel.lag.value) / kOurTicks; },
                  [](Feel& feel, double value) {
                    feel.lag = Beats(toNearest<std::int64_t>(value * kOurTicks));
                  }},
    share<Feel, &Feel::quantiseStrength>(
        percent("feel.quantise-strength", "Quantise", 0, 100, 0,
                "How far hits are heard on their lines; their own timing stays (Ctrl+G "
                "writes it into them)")),
    quantity<Feel, &Feel::humanise>(milliseconds(
        "feel.humanise", "Humanise", 0, 40, 40,
        "Every hit a little off by itself, always the same: about two thirds lie this near")),
    share<Feel, &Feel::humaniseLevel>(
        percent("feel.humanise-velocity", "Velocity variation", 0, 40, 0,
                "Every hit a little harder or softer by itself, always the same")),
    FeelParameter{{.id = "feel.accent",
                   .name = "Accent",
                   .least = 0,
                   .most = double(kAccents.size()) - 1,
                   .standard = 0,
                   .step = 1,
                   .decimals = 0,
                   .words = kAccents,
                   .about = "Which places of a bar are played harder"},
                  [](const Feel& feel) { return double(feel.accent); },
                  [](Feel& feel, double value) {
                    feel.accent = AccentShape(placeIn(value, kAccents.size()));
                  }},
    share<Feel, &Feel::accentDepth>(percent("feel.accent-depth", "Accent depth", 0, 90, 0,
                                            "How much softer what is not accented is played")),
    share<Feel, &Feel::grooveTiming>(percent("feel.groove-timing", "Its timing", 0, 150, 100,
                                             "How much of the feel's timing is laid on")),
    share<Feel, &Feel::grooveLevel>(percent("feel.groove-accents", "Its accents", 0, 150, 100,
                                            "How much of the feel's accents is laid on")),
};

} // namespace

std::span<const HitParameter> hitParameters() { return kHit; }
std::span<const FeelParameter> feelParameters() { return kFeel; }

const HitParameter* findHitParameter(std::string_view id) {
  return findFigure(hitParameters(), id);
}
const FeelParameter* findFeelParameter(std::string_view id) {
  return findFigure(feelParameters(), id);
}

void clamp(Hit& hit) {
  hit.at = std::max(hit.at, Beats(0));
  hit.roll.step = std::clamp(hit.roll.step, kShortestStep, wholeBeats(4));
  if (hit.glide.time.value < 0) hit.glide.time = Milliseconds(-1);
  if (!hit.treatments.empty()) { // most hits have none, and there may be a million
    HitTreatments::List list = hit.treatments.list();
    if (list.treatments.size() > kMostTreatments) list.treatments.resize(kMostTreatments);
    for (auto& each : list.treatments) clamp(each);
    if (!(list == hit.treatments.list())) hit.treatments = HitTreatments(std::move(list));
  }
  clampFigures(hit, hitParameters());
}

void clamp(Feel& feel) { clampFigures(feel, feelParameters()); }

} // namespace tuvvo
