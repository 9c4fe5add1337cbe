#include "keys/key_picture.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "model/edits.h"
#include "play/filter_response.h"
#include "theme/theme.h"
#include "widgets/small_wave.h"

#include <QPainterPath>
#include <cmath>

namespace tuvvo {

using theme::px;

Key layerAsKey(const Key& key, int layer) {
  if (layer > 0 && std::size_t(layer) <= key.layers.size())
    return keyOfLayer(key, key.layers[std::size_t(layer) - 1]);
  return key;
}

KeyPicture::KeyPicture(Panel& host, PeaksCache& peaks, QWidget* parent)
    : PicturePanel(host, parent), m_peaks(peaks) {
  setAccessibleName(tr("The sound of the key"));
  setMinimumHeight(px(130));
  setMouseTracking(true);
  connect(&peaks, &PeaksCache::arrived, this, &KeyPicture::drawAnew);
  connect(this, &Panel::changed, this, [this] { setLayer(m_layer); });
  connect(this, &Panel::selectionChanged, this, [this] { setLayer(0); });
}

void KeyPicture::setLayer(int layer) {
  const Key* k = key();
  const int held = std::clamp(layer, 0, k ? int(k->layers.size()) : 0);
  if (held != m_layer) {
    m_layer = held;
    emit layerChosen(m_layer);
  }
  drawAnew();
}

void KeyPicture::showMoves(bool on) {
  m_showsMoves = on;
  drawAnew();
}

const Key* KeyPicture::key() const { return findKey(project(), selection().key); }

// ---- places -------------------------------------------------------------------------------------

QRectF KeyPicture::timeField() const {
  const QRectF all = QRectF(rect()).adjusted(px(14), px(14), -px(14), -px(24));
  return {all.left(), all.top(), all.width() * 0.70, all.height()};
}

QRectF KeyPicture::filterField() const {
  const QRectF all = QRectF(rect()).adjusted(px(14), px(14), -px(14), -px(24));
  return {all.left() + all.width() * 0.735, all.top(), all.width() * 0.265, all.height()};
}

double KeyPicture::lengthMs(const Key& layer) const {
  const Source* s = findSource(project(), layer.sound.source);
  if (!s || !s->sound) return 0;
  const Stretch stretch = stretchOf(*s, layer);
  const Semitones tune = layer.tune + toSemitones(layer.fine) + layer.own.tune;
  return double((stretch.end - stretch.start).value) / s->sound->rate().value * 1000 /
         (ratioOf(tune) * s->shape.pitch());
}

double KeyPicture::shownMs(const Key& key) const {
  double longest = 20;
  for (int layer = 0; layer <= int(key.layers.size()); ++layer) {
    const Key each = layerAsKey(key, layer);
    longest = std::max(longest, each.own.delay.value + lengthMs(each));
  }
  return longest * 1.2;
}

double KeyPicture::xOf(double ms, const Key& key) const {
  const QRectF f = timeField();
  return f.left() + std::clamp(ms / shownMs(key), 0.0, 1.0) * f.width();
}

double KeyPicture::xOfHz(double hz) const {
  const QRectF f = filterField();
  return f.left() + std::log(std::clamp(hz, 20.0, 20e3) / 20) / std::log(1000.0) * f.width();
}

double KeyPicture::hzAt(double x) const {
  const QRectF f = filterField();
  return 20 * std::pow(1000.0, std::clamp((x - f.left()) / f.width(), 0.0, 1.0));
}

QRectF KeyPicture::laneOf(int layer) const {
  const QRectF f = timeField();
  const Key* k = key();
  const double count = k ? double(k->layers.size()) + 1 : 1, height = f.height() / count;
  return {f.left(), f.top() + height * layer, f.width(), height};
}

std::array<QPointF, 6> KeyPicture::corners(const Envelope& e, const Key& key) const {
  const QRectF f = timeField();
  const double end = shownMs(key) / 1.2, top = e.attack.value, held = top + e.hold.value,
               fallen = held + e.decay.value;
  const bool heldKey = key.gate || key.loop.on;
  const auto at = [&](double ms, double level) {
    return QPointF(xOf(ms, key), f.bottom() - level * f.height());
  };
  const double off = std::max(end, fallen);
  return {at(0, 0),           at(top, 1),
          at(held, 1),        at(fallen, e.sustain),
          at(off, e.sustain), at(heldKey ? off + e.release.value : off, heldKey ? 0 : e.sustain)};
}

namespace {

/// Along a bent slope.
QPointF along(QPointF from, QPointF to, double share, double curve) {
  const double k = curve * std::log(1000.0);
  const double done = std::abs(k) < 1e-6 ? share : (1 - std::exp(-k * share)) / (1 - std::exp(-k));
  return {from.x() + (to.x() - from.x()) * share, from.y() + (to.y() - from.y()) * done};
}

} // namespace

QPolygonF KeyPicture::lineOf(const Envelope& e, const Key& key) const {
  const auto c = corners(e, key);
  QPolygonF line{c[0]};
  const auto slope = [&](QPointF from, QPointF to, double curve) {
    for (int i = 1; i <= 24; ++i) line << along(from, to, i / 24.0, curve);
  };
  slope(c[0], c[1], e.attackCurve);
  line << c[2];
  slope(c[2], c[3], e.decayCurve);
  line << c[4];
  if (c[5] != c[4]) slope(c[4], c[5], e.releaseCurve);
  return line;
}

std::vector<KeyPicture::Handle> KeyPicture::handles(const Key& key) const {
  const auto& e = key.envelope;
  const auto c = corners(e, key);
  std::vector<Handle> out;
  const auto bend = [&](Grip grip, QPointF from, QPointF to, double curve) {
    if (std::abs(to.x() - from.x()) > px(18) && std::abs(to.y() - from.y()) > px(18))
      out.push_back({grip, along(from, to, 0.5, curve)});
  };
  bend(Grip::AttackBend, c[0], c[1], e.attackCurve);
  bend(Grip::DecayBend, c[2], c[3], e.decayCurve);
  if (c[5] != c[4]) {
    bend(Grip::ReleaseBend, c[4], c[5], e.releaseCurve);
    out.push_back({Grip::Release, c[5]});
  }
  out.push_back({Grip::Sustain, c[3]});
  out.push_back({Grip::Attack, c[1]});
  const auto& moves = key.filterEnvelope;
  if (moves.lowMoves != 0 || moves.highMoves != 0) {
    const auto f = corners(moves.shape, key);
    out.push_back({Grip::FilterSustain, f[3]});
    out.push_back({Grip::FilterAttack, f[1]});
  }
  // Filters that are off wait at the ends.
  const double high = key.highPass.value > 0 ? key.highPass.value : 20,
               low = key.lowPass.value > 0 ? key.lowPass.value : 20e3;
  const QRectF f = filterField();
  const double y = f.top() + f.height() * (0.5 - key.resonance.value / 24 * 0.45);
  out.push_back({Grip::HighPass, {xOfHz(high), y}});
  out.push_back({Grip::LowPass, {xOfHz(low), y}});
  if (!m_showsMoves) return out;
  const double moved = f.bottom() - px(9);
  out.push_back({Grip::HighMoves, {xOfHz(high * std::exp2(moves.highMoves)), moved - px(16)}});
  out.push_back({Grip::LowMoves, {xOfHz(low * std::exp2(moves.lowMoves)), moved}});
  return out;
}

std::optional<QPointF> KeyPicture::placeOf(Grip grip) const {
  if (const Key* k = key())
    for (const Handle& handle : handles(*k))
      if (handle.grip == grip) return handle.at;
  return std::nullopt;
}

// ---- painting -----------------------------------------------------------------------------------

void KeyPicture::drawLane(QPainter& p, const Key& whole, int layer) {
  const auto& c = theme::colours();
  const QRectF lane = laneOf(layer);
  const Key each = layerAsKey(whole, layer);
  const Source* s = findSource(project(), each.sound.source);
  const bool several = !whole.layers.empty(), chosen = several && layer == m_layer;
  if (chosen) {
    p.setPen(Qt::NoPen);
    p.setBrush(c.raised);
    p.drawRoundedRect(lane.adjusted(-px(6), 1, px(4), -1), 5, 5);
  }
  const QColor ground = chosen ? c.raised : c.panel, tone = theme::ofRow(whole.row);
  const double from = xOf(each.own.delay.value, whole),
               to = xOf(each.own.delay.value + lengthMs(each), whole);
  const double scale = std::clamp(gainOf(each.own.level), 0.12, 1.0);
  const QRectF box(from, lane.center().y() - lane.height() * 0.46 * scale, std::max(2.0, to - from),
                   lane.height() * 0.92 * scale);
  if (s && s->sound)
    drawSmallWave(p, box, *s->sound, m_peaks.peaksOf(*s), stretchOf(*s, each),
                  theme::markOf(tone, ground, 0.5));
  if (!several) return;
  Key named = each;
  named.name = layer == 0 ? whole.name : std::string();
  QStringList said{s ? nameText(project(), named) : tr("missing")};
  if (each.own.delay.value > 0) said << tr("+%1 ms").arg(each.own.delay.value, 0, 'f', 1);
  if (each.own.level.value != 0) said << tr("%1 dB").arg(each.own.level.value, 0, 'f', 1);
  if (each.own.tune.value != 0) said << tr("%1 st").arg(each.own.tune.value, 0, 'f', 1);
  if (each.own.highPass.value > 0) said << tr("over %1 Hz").arg(each.own.highPass.value, 0, 'f', 0);
  if (each.own.lowPass.value > 0) said << tr("under %1 Hz").arg(each.own.lowPass.value, 0, 'f', 0);
  if (each.own.inverted) said << tr("inverted");
  if (whole.mode == LayerMode::ByVelocity)
    said << tr("to velocity %1").arg(toNearest<int>(each.own.upTo * 100));
  const QString text =
      said.join(QStringLiteral("  ")).replace(QStringLiteral(" -"), QStringLiteral(" \u2212"));
  const double width = QFontMetricsF(theme::font(theme::Type::Small)).horizontalAdvance(text);
  const QRectF label(lane.right() - width - px(8), lane.top() + px(2), width + px(6), px(17));
  p.setPen(Qt::NoPen);
  p.setBrush(ground);
  p.drawRect(label);
  theme::drawText(p, label, Qt::AlignRight | Qt::AlignVCenter, text, theme::Type::Small,
                  chosen ? c.text : c.quiet);
}

void KeyPicture::drawLanes(QPainter& p, const Key& key) {
  const auto& c = theme::colours();
  for (int layer = 0; layer <= int(key.layers.size()); ++layer) drawLane(p, key, layer);
  const QRectF f = timeField();
  const double all = shownMs(key);
  for (int i = 0; i < 5; ++i) {
    const double x = f.left() + f.width() * i / 5;
    p.setPen(QPen(c.line, 1));
    p.drawLine(QPointF(x, f.bottom()), QPointF(x, f.bottom() + 4));
    theme::drawText(p, QRectF(x, f.bottom() + 3, px(70), px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("%1 ms").arg(all * i / 5, 0, 'f', 0), theme::Type::Small, c.quiet);
  }
}

void KeyPicture::drawEnvelopes(QPainter& p, const Key& key) {
  const auto& c = theme::colours();
  const auto& moves = key.filterEnvelope;
  p.setBrush(Qt::NoBrush);
  if (moves.lowMoves != 0 || moves.highMoves != 0) {
    p.setPen(QPen(c.mint, 1.5, Qt::DashLine, Qt::RoundCap, Qt::RoundJoin));
    p.drawPolyline(lineOf(moves.shape, key));
  }
  p.setPen(QPen(c.brass, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.drawPolyline(lineOf(key.envelope, key));
}

void KeyPicture::drawFilters(QPainter& p, const Key& key) {
  const auto& c = theme::colours();
  const QRectF f = filterField();
  p.setPen(QPen(c.line, 1));
  p.setBrush(Qt::NoBrush);
  const double level = f.top() + f.height() * 0.5;
  p.drawLine(QPointF(f.left(), level), QPointF(f.right(), level));
  for (const auto& [hz, text] :
       {std::pair{100.0, tr("100")}, {1000.0, tr("1k")}, {10e3, tr("10k")}}) {
    const double x = xOfHz(hz);
    p.drawLine(QPointF(x, f.top()), QPointF(x, f.bottom()));
    theme::drawText(p, QRectF(x - px(30), f.bottom() + 3, px(60), px(16)), Qt::AlignCenter, text,
                    theme::Type::Small, c.quiet);
    p.setPen(QPen(c.line, 1));
  }
  theme::drawText(p, QRectF(f.left(), f.top() - px(4), f.width(), px(16)),
                  Qt::AlignHCenter | Qt::AlignTop, tr("Filters, Hz"), theme::Type::Small, c.quiet);
  if (m_showsMoves)
    theme::drawText(p, QRectF(f.left(), f.bottom() - px(46), f.width(), px(16)), Qt::AlignHCenter,
                    tr("moved to"), theme::Type::Small, c.mint);
  const auto curve = [&](bool moved) {
    QPolygonF line;
    for (double x = f.left(); x <= f.right(); x += 2) {
      const double db = filterResponseDb(key, hzAt(x), moved ? 1 : 0);
      line << QPointF(x, std::clamp(level - db / 24 * f.height() * 0.45, f.top(), f.bottom()));
    }
    return line;
  };
  const auto& moves = key.filterEnvelope;
  if (moves.lowMoves != 0 || moves.highMoves != 0) {
    p.setPen(QPen(c.mint, 1.5, Qt::DashLine));
    p.drawPolyline(curve(true));
  }
  p.setPen(QPen(theme::ofRow(key.row), 2));
  p.drawPolyline(curve(false));
}

void KeyPicture::draw(QPainter& p) {
  const auto& c = theme::colours();
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const Key* k = key();
  if (!k) {
    theme::drawText(p, rect(), Qt::AlignCenter, tr("Play a key, and its sound stands here."),
                    theme::Type::Body, c.quiet);
    return;
  }
  drawLanes(p, *k);
  drawEnvelopes(p, *k);
  drawFilters(p, *k);
  for (const Handle& handle : handles(*k)) {
    const bool bend = handle.grip == Grip::AttackBend || handle.grip == Grip::DecayBend ||
                      handle.grip == Grip::ReleaseBend;
    const bool moves = handle.grip == Grip::HighMoves || handle.grip == Grip::LowMoves ||
                       handle.grip == Grip::FilterAttack || handle.grip == Grip::FilterSustain;
    const bool filter = handle.grip == Grip::HighPass || handle.grip == Grip::LowPass;
    p.setPen(QPen(c.panel, 1));
    p.setBrush(moves ? c.mint : filter ? theme::ofRow(k->row) : c.brass);
    if (moves || bend) { // smaller, and standing on a corner
      const double r = px(4);
      p.drawPolygon(QPolygonF({handle.at + QPointF(0, -r), handle.at + QPointF(r, 0),
                               handle.at + QPointF(0, r), handle.at + QPointF(-r, 0)}));
    } else {
      p.drawEllipse(handle.at, px(5), px(5));
    }
  }
}

} // namespace tuvvo
