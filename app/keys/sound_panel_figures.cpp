// The figures of a key's sound: what each slide says, reads and sets.
#include "keys/sound_panel.h"

#include "model/edits.h"

#include <cmath>

namespace tuvvo {

std::vector<SoundPanel::Field> SoundPanel::fields() const {
  std::vector<Field> out;
  addLevelFields(out);
  addEnvelopeFields(out);
  addFilterFields(out);
  addLayerFields(out);
  return out;
}

void SoundPanel::addLevelFields(std::vector<Field>& out) const {
  const auto add = [&](const QString& label, Slide::Range range, const QString& unit,
                       const QString& step, auto get, auto set,
                       std::function<QString(double)> format = {}) {
    out.push_back({Group::Level, label, range, unit, step,
                   [get](const Key& k, int) { return get(k); },
                   [set](Key& k, int, double v) { set(k, v); }, std::move(format)});
  };
  add(
      tr("Level"), {-60, 12, 0, 0.5, 1}, tr("dB"), tr("Key level"),
      [](const Key& k) { return k.level.value; }, [](Key& k, double v) { k.level = Decibels(v); });
  add(
      tr("Pan"), {-100, 100, 0, 1, 0}, {}, tr("Key pan"),
      [](const Key& k) { return std::round(k.pan * 100); },
      [](Key& k, double v) { k.pan = v / 100; },
      [](double v) {
        return v == 0 ? tr("middle") : v < 0 ? tr("left %1").arg(-v) : tr("right %1").arg(v);
      });
  add(
      tr("Tune"), {-48, 48, 0, 1, 0}, tr("st"), tr("Tune a key"),
      [](const Key& k) { return k.tune.value; }, [](Key& k, double v) { k.tune = Semitones(v); });
  add(
      tr("Fine"), {-100, 100, 0, 1, 0}, tr("ct"), tr("Fine tune a key"),
      [](const Key& k) { return k.fine.value; }, [](Key& k, double v) { k.fine = Cents(v); });
  add(
      tr("Glide"), {0, 2000, 0, 5, 0}, tr("ms"), tr("Glide"),
      [](const Key& k) { return k.glide.value; },
      [](Key& k, double v) { k.glide = Milliseconds(v); });
  out.back().works = [](const Key& k) { return k.mono; };
}

namespace {
QString bendText(double v) {
  return v == 0  ? SoundPanel::tr("straight")
         : v > 0 ? SoundPanel::tr("quick first %1").arg(v)
                 : SoundPanel::tr("slow first %1").arg(-v);
}
} // namespace

void SoundPanel::addEnvelopeFields(std::vector<Field>& out) const {
  const auto add = [&](Group group, const QString& label, Slide::Range range, const QString& unit,
                       auto get, auto set, std::function<QString(double)> format = {}) {
    out.push_back({group, label, range, unit, label, [get](const Key& k, int) { return get(k); },
                   [set](Key& k, int, double v) { set(k, v); }, std::move(format)});
  };
  const auto time = [&](const QString& label, double most, double usual,
                        Milliseconds Envelope::*which) {
    add(
        Group::Envelope, label, {0, most, usual, 1, 0}, tr("ms"),
        [which](const Key& k) { return (k.envelope.*which).value; },
        [which](Key& k, double v) { k.envelope.*which = Milliseconds(v); });
  };
  const auto bend = [&](const QString& label, double usual, double Envelope::*which) {
    add(
        Group::Envelope, label, {-100, 100, usual, 5, 0}, {},
        [which](const Key& k) { return std::round(k.envelope.*which * 100); },
        [which](Key& k, double v) { k.envelope.*which = v / 100; }, bendText);
  };
  time(tr("Attack"), 5000, 0, &Envelope::attack);
  time(tr("Hold"), 10000, 0, &Envelope::hold);
  time(tr("Decay"), 10000, 0, &Envelope::decay);
  add(
      Group::Envelope, tr("Sustain"), {0, 100, 100, 1, 0}, tr("%"),
      [](const Key& k) { return k.envelope.sustain * 100; },
      [](Key& k, double v) { k.envelope.sustain = v / 100; });
  time(tr("Release"), 10000, 40, &Envelope::release);
  bend(tr("Attack bends"), 0, &Envelope::attackCurve);
  bend(tr("Decay bends"), 100, &Envelope::decayCurve);
  bend(tr("Release bends"), 100, &Envelope::releaseCurve);
}

void SoundPanel::addFilterFields(std::vector<Field>& out) const {
  const auto add = [&](const QString& label, Slide::Range range, const QString& unit, auto get,
                       auto set, std::function<QString(double)> format = {}) {
    out.push_back({Group::Filter, label, range, unit, label,
                   [get](const Key& k, int) { return get(k); },
                   [set](Key& k, int, double v) { set(k, v); }, std::move(format)});
  };
  const auto hertz = [](double off) {
    return [off](double v) {
      if (std::abs(v - off) < off * 0.02) return tr("none");
      return v < 1000 ? tr("%1 Hz").arg(v, 0, 'f', 0) : tr("%1 kHz").arg(v / 1000, 0, 'f', 2);
    };
  };
  add(
      tr("High-pass"), {20, 20'000, 20, 1, 0, true}, {},
      [](const Key& k) { return k.highPass.value > 0 ? k.highPass.value : 20; },
      [](Key& k, double v) { k.highPass = Hertz(v <= 20.4 ? 0 : v); }, hertz(20));
  add(
      tr("Low-pass"), {20, 20'000, 20'000, 1, 0, true}, {},
      [](const Key& k) { return k.lowPass.value > 0 ? k.lowPass.value : 20'000; },
      [](Key& k, double v) { k.lowPass = Hertz(v >= 19'600 ? 0 : v); }, hertz(20'000));
  add(
      tr("Resonance"), {0, 24, 0, 0.5, 1}, tr("dB"), [](const Key& k) { return k.resonance.value; },
      [](Key& k, double v) { k.resonance = Decibels(v); });
  const auto octaves = [&](const QString& label, double FilterEnvelope::*which) {
    add(
        label, {-8, 8, 0, 0.25, 2}, tr("oct"),
        [which](const Key& k) { return k.filterEnvelope.*which; },
        [which](Key& k, double v) { k.filterEnvelope.*which = v; });
  };
  octaves(tr("High-pass moves"), &FilterEnvelope::highMoves);
  octaves(tr("Low-pass moves"), &FilterEnvelope::lowMoves);
  const auto time = [&](const QString& label, double most, double usual,
                        Milliseconds Envelope::*which) {
    add(
        label, {0, most, usual, 1, 0}, tr("ms"),
        [which](const Key& k) { return (k.filterEnvelope.shape.*which).value; },
        [which](Key& k, double v) { k.filterEnvelope.shape.*which = Milliseconds(v); });
  };
  time(tr("Moves in"), 5000, 0, &Envelope::attack);
  time(tr("Stays"), 10000, 0, &Envelope::hold);
  time(tr("Moves back in"), 10000, 250, &Envelope::decay);
  add(
      tr("Back to"), {0, 100, 0, 1, 0}, tr("%"),
      [](const Key& k) { return k.filterEnvelope.shape.sustain * 100; },
      [](Key& k, double v) { k.filterEnvelope.shape.sustain = v / 100; });
  time(tr("Let go in"), 10000, 120, &Envelope::release);
}

void SoundPanel::addLayerFields(std::vector<Field>& out) const {
  const auto add = [&](const QString& label, Slide::Range range, const QString& unit, auto get,
                       auto set) {
    out.push_back({Group::Layers,
                   label,
                   range,
                   unit,
                   label,
                   [get](const Key& k, int layer) { return get(layerAsKey(k, layer).own); },
                   [set](Key& k, int layer, double v) { set(playOf(k, layer), v); },
                   {}});
  };
  add(
      tr("Delay"), {0, 500, 0, 1, 1}, tr("ms"), [](const LayerPlay& l) { return l.delay.value; },
      [](LayerPlay& l, double v) { l.delay = Milliseconds(v); });
  add(
      tr("Level of the layer"), {-60, 12, 0, 0.5, 1}, tr("dB"),
      [](const LayerPlay& l) { return l.level.value; },
      [](LayerPlay& l, double v) { l.level = Decibels(v); });
  add(
      tr("Tune of the layer"), {-48, 48, 0, 1, 2}, tr("st"),
      [](const LayerPlay& l) { return l.tune.value; },
      [](LayerPlay& l, double v) { l.tune = Semitones(v); });
  add(
      tr("Up to velocity"), {2, 100, 100, 1, 0}, {},
      [](const LayerPlay& l) { return std::round(l.upTo * 100); },
      [](LayerPlay& l, double v) { l.upTo = v / 100; });
  out.back().works = [](const Key& k) {
    return !k.layers.empty() && k.way == LayerWay::ByVelocity;
  };
}

} // namespace tuvvo
