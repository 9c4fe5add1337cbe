#include "model/key_parameters.h"

#include "model/project.h"

#include <cmath>

namespace tuvvo {

namespace {

using Group = KeyParameter::Group;

constexpr double kLowest = 20, kHighest = 20'000; ///< Hz, of corners
constexpr std::array<std::string_view, 2> kPolarities{"as it is", "inverted"};

template <auto member> double figureOf(const Key& key, int) { return (key.*member).value; }
template <auto member> void setFigure(Key& key, int, double value) { (key.*member).value = value; }
/// Times and shapes of an envelope, which is a member of a key or of its filters'.
struct Own {
  static auto& of(auto& key) { return key.envelope; }
};
struct OfFilters {
  static auto& of(auto& key) { return key.filterEnvelope.shape; }
};
template <class Which, auto member> double timeOf(const Key& key, int) {
  return (Which::of(key).*member).value;
}
template <class Which, auto member> void setTime(Key& key, int, double value) {
  (Which::of(key).*member).value = value;
}
template <class Which, auto member> double shareOf(const Key& key, int) {
  return std::round(Which::of(key).*member * 1000) / 10;
}
template <class Which, auto member> void setShare(Key& key, int, double value) {
  Which::of(key).*member = value / 100;
}

LayerPlay layerOf(const Key& key, int layer) {
  return layer <= 0 || std::size_t(layer) > key.layers.size()
             ? key.own
             : key.layers[std::size_t(layer) - 1].play;
}
template <auto member> double layerFigure(const Key& key, int layer) {
  return (layerOf(key, layer).*member).value;
}
template <auto member> void setLayerFigure(Key& key, int layer, double value) {
  (playOf(key, layer).*member).value = value;
}

constexpr Parameter milliseconds(std::string_view id, std::string_view name, double most,
                                 double standard) {
  return {id, name, Unit::Milliseconds, 0, most, standard, 1, 0, Taper::Even, {}};
}
constexpr Parameter percent(std::string_view id, std::string_view name, double least,
                            double standard, double step) {
  return {id, name, Unit::Percent, least, 100, standard, step, 0, Taper::Even, {}};
}
constexpr Parameter corner(std::string_view id, std::string_view name, double standard) {
  return {id, name, Unit::Hertz, kLowest, kHighest, standard, 1, 0, Taper::Ratio, {}};
}

const std::array kAll{
    KeyParameter{{"key.level", "Level", Unit::Decibels, -60, 12, 0, 0.5, 1, Taper::Even, {}},
                 figureOf<&Key::level>,
                 setFigure<&Key::level>,
                 Group::Level},
    KeyParameter{percent("key.pan", "Pan", -100, 0, 1),
                 [](const Key& key, int) { return std::round(key.pan * 100); },
                 [](Key& key, int, double value) { key.pan = value / 100; }, Group::Level},
    KeyParameter{{"key.tune", "Tune", Unit::Semitones, -48, 48, 0, 1, 0, Taper::Even, {}},
                 figureOf<&Key::tune>,
                 setFigure<&Key::tune>,
                 Group::Level},
    KeyParameter{{"key.fine", "Fine", Unit::Cents, -100, 100, 0, 1, 0, Taper::Even, {}},
                 figureOf<&Key::fine>,
                 setFigure<&Key::fine>,
                 Group::Level},
    KeyParameter{{"key.glide", "Glide", Unit::Milliseconds, 0, 2000, 0, 5, 0, Taper::Even, {}},
                 figureOf<&Key::glide>,
                 setFigure<&Key::glide>,
                 Group::Level,
                 [](const Key& key) { return key.mono; }},

    KeyParameter{milliseconds("key.attack", "Attack", 5000, 0), timeOf<Own, &Envelope::attack>,
                 setTime<Own, &Envelope::attack>, Group::Envelope},
    KeyParameter{milliseconds("key.hold", "Hold", 10'000, 0), timeOf<Own, &Envelope::hold>,
                 setTime<Own, &Envelope::hold>, Group::Envelope},
    KeyParameter{milliseconds("key.decay", "Decay", 10'000, 0), timeOf<Own, &Envelope::decay>,
                 setTime<Own, &Envelope::decay>, Group::Envelope},
    KeyParameter{percent("key.sustain", "Sustain", 0, 100, 1), shareOf<Own, &Envelope::sustain>,
                 setShare<Own, &Envelope::sustain>, Group::Envelope},
    KeyParameter{milliseconds("key.release", "Release", 10'000, 40),
                 timeOf<Own, &Envelope::release>, setTime<Own, &Envelope::release>,
                 Group::Envelope},
    KeyParameter{percent("key.attack-bend", "Attack bends", -100, 0, 5),
                 shareOf<Own, &Envelope::attackCurve>, setShare<Own, &Envelope::attackCurve>,
                 Group::Envelope},
    KeyParameter{percent("key.decay-bend", "Decay bends", -100, 100, 5),
                 shareOf<Own, &Envelope::decayCurve>, setShare<Own, &Envelope::decayCurve>,
                 Group::Envelope},
    KeyParameter{percent("key.release-bend", "Release bends", -100, 100, 5),
                 shareOf<Own, &Envelope::releaseCurve>, setShare<Own, &Envelope::releaseCurve>,
                 Group::Envelope},

    KeyParameter{
        corner("key.high-pass", "High-pass", kLowest),
        [](const Key& key, int) { return key.highPass.value > 0 ? key.highPass.value : kLowest; },
        [](Key& key, int, double value) {
          key.highPass = Hertz(value <= kLowest * 1.02 ? 0 : value);
        },
        Group::Filter},
    KeyParameter{
        corner("key.low-pass", "Low-pass", kHighest),
        [](const Key& key, int) { return key.lowPass.value > 0 ? key.lowPass.value : kHighest; },
        [](Key& key, int, double value) {
          key.lowPass = Hertz(value >= kHighest * 0.98 ? 0 : value);
        },
        Group::Filter},
    KeyParameter{{"key.resonance", "Resonance", Unit::Decibels, 0, 24, 0, 0.5, 1, Taper::Even, {}},
                 figureOf<&Key::resonance>,
                 setFigure<&Key::resonance>,
                 Group::Filter},
    KeyParameter{{"key.high-pass-moves",
                  "High-pass moves",
                  Unit::Octaves,
                  -8,
                  8,
                  0,
                  0.25,
                  2,
                  Taper::Even,
                  {}},
                 [](const Key& key, int) { return key.filterEnvelope.highMoves; },
                 [](Key& key, int, double value) { key.filterEnvelope.highMoves = value; },
                 Group::Filter},
    KeyParameter{
        {"key.low-pass-moves", "Low-pass moves", Unit::Octaves, -8, 8, 0, 0.25, 2, Taper::Even, {}},
        [](const Key& key, int) { return key.filterEnvelope.lowMoves; },
        [](Key& key, int, double value) { key.filterEnvelope.lowMoves = value; },
        Group::Filter},
    KeyParameter{milliseconds("key.filter-attack", "Moves in", 5000, 0),
                 timeOf<OfFilters, &Envelope::attack>, setTime<OfFilters, &Envelope::attack>,
                 Group::Filter},
    KeyParameter{milliseconds("key.filter-hold", "Stays", 10'000, 0),
                 timeOf<OfFilters, &Envelope::hold>, setTime<OfFilters, &Envelope::hold>,
                 Group::Filter},
    KeyParameter{milliseconds("key.filter-decay", "Moves back in", 10'000, 250),
                 timeOf<OfFilters, &Envelope::decay>, setTime<OfFilters, &Envelope::decay>,
                 Group::Filter},
    KeyParameter{percent("key.filter-sustain", "Back to", 0, 0, 1),
                 shareOf<OfFilters, &Envelope::sustain>, setShare<OfFilters, &Envelope::sustain>,
                 Group::Filter},
    KeyParameter{milliseconds("key.filter-release", "Let go in", 10'000, 120),
                 timeOf<OfFilters, &Envelope::release>, setTime<OfFilters, &Envelope::release>,
                 Group::Filter},

    KeyParameter{{"layer.delay", "Delay", Unit::Milliseconds, 0, 500, 0, 1, 1, Taper::Even, {}},
                 layerFigure<&LayerPlay::delay>,
                 setLayerFigure<&LayerPlay::delay>,
                 Group::Layer},
    KeyParameter{
        {"layer.level", "Level of the layer", Unit::Decibels, -60, 12, 0, 0.5, 1, Taper::Even, {}},
        layerFigure<&LayerPlay::level>,
        setLayerFigure<&LayerPlay::level>,
        Group::Layer},
    KeyParameter{
        {"layer.tune", "Tune of the layer", Unit::Semitones, -48, 48, 0, 1, 2, Taper::Even, {}},
        layerFigure<&LayerPlay::tune>,
        setLayerFigure<&LayerPlay::tune>,
        Group::Layer},
    KeyParameter{corner("layer.high-pass", "High-pass of the layer", kLowest),
                 [](const Key& key, int layer) {
                   return std::max(kLowest, layerOf(key, layer).highPass.value);
                 },
                 [](Key& key, int layer, double value) {
                   playOf(key, layer).highPass = Hertz(value <= kLowest * 1.02 ? 0 : value);
                 },
                 Group::Layer},
    KeyParameter{corner("layer.low-pass", "Low-pass of the layer", kHighest),
                 [](const Key& key, int layer) {
                   const double hz = layerOf(key, layer).lowPass.value;
                   return hz <= 0 ? kHighest : hz;
                 },
                 [](Key& key, int layer, double value) {
                   playOf(key, layer).lowPass = Hertz(value >= kHighest * 0.98 ? 0 : value);
                 },
                 Group::Layer},
    KeyParameter{milliseconds("layer.attack", "Attack of the layer", 500, 0),
                 layerFigure<&LayerPlay::attack>, setLayerFigure<&LayerPlay::attack>, Group::Layer},
    KeyParameter{milliseconds("layer.decay", "Decay of the layer", 5000, 0),
                 layerFigure<&LayerPlay::decay>, setLayerFigure<&LayerPlay::decay>, Group::Layer},
    KeyParameter{
        {"layer.polarity", "Polarity", Unit::None, 0, 1, 0, 1, 0, Taper::Even, kPolarities},
        [](const Key& key, int layer) { return layerOf(key, layer).inverted ? 1.0 : 0.0; },
        [](Key& key, int layer, double value) { playOf(key, layer).inverted = value >= 0.5; },
        Group::Layer},
    KeyParameter{
        percent("layer.up-to", "Up to velocity", 2, 100, 1),
        [](const Key& key, int layer) { return std::round(layerOf(key, layer).upTo * 100); },
        [](Key& key, int layer, double value) { playOf(key, layer).upTo = value / 100; },
        Group::Layer,
        [](const Key& key) { return !key.layers.empty() && key.mode == LayerMode::ByVelocity; }},
};

} // namespace

std::span<const KeyParameter> keyParameters() { return kAll; }

const KeyParameter* findKeyParameter(std::string_view id) {
  for (const auto& each : kAll)
    if (each.parameter.id == id) return &each;
  return nullptr;
}

} // namespace tuvvo
