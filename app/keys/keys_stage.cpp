#include "keys/keys_stage.h"

#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/small_wave.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

KeyPicture::KeyPicture(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Sound and envelope"));
  setToolTip(
      tr("The sound with its envelope. Drag the corners: attack, decay and sustain, release."));
  setMinimumHeight(px(130));
  setMouseTracking(true);
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
}

QRectF KeyPicture::field() const {
  return QRectF(rect()).adjusted(px(14), px(14), -px(14), -px(24));
}

double KeyPicture::shownMs(const Key& key) const {
  const Source* s = findSource(m_session.project(), key.sound.source);
  if (!s || !s->sound) return 1000;
  const Stretch stretch = stretchOf(*s, key);
  const double ms = double((stretch.end - stretch.start).value) / s->sound->rate().value * 1000 /
                    ratioOf(key.tune + toSemitones(key.fine));
  return std::max(20.0, ms) * 1.25;
}

KeyPicture::Corners KeyPicture::corners(const Key& key) const {
  const QRectF f = field();
  const double all = shownMs(key), end = all / 1.25;
  const auto x = [&](double ms) { return f.left() + std::clamp(ms / all, 0.0, 1.0) * f.width(); };
  const auto y = [&](double level) { return f.bottom() - level * f.height(); };
  const auto& e = key.envelope;
  const double decayEnd =
      e.attack.value + e.hold.value + e.decay.value * 0.5; // where most of the fall has happened
  return {{x(e.attack.value), y(1)},
          {x(std::min(decayEnd, end)), y(e.sustain)},
          {x(end + std::min(e.release.value, all - end)), y(0)}};
}

void KeyPicture::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const Key* key = findKey(m_session.project(), m_session.selection().key);
  const Source* s = key ? findSource(m_session.project(), key->sound.source) : nullptr;
  if (!s || !s->sound) {
    theme::drawText(p, rect(), Qt::AlignCenter, tr("Play a key, and its sound stands here."),
                    theme::Type::Body, c.quiet);
    return;
  }
  const QRectF f = field();
  const QColor tone = theme::ofRow(key->row);
  const Stretch stretch = stretchOf(*s, *key);
  const double soundWidth = f.width() / 1.25;
  drawSmallWave(p, QRectF(f.left(), f.top(), soundWidth, f.height()), *s->sound,
                m_session.peaksOf(*s), stretch, theme::mixed(tone, c.panel, 0.7));
  const Corners at = corners(*key);
  const QPointF sustainEnd(f.left() + soundWidth, at.decay.y());
  p.setPen(QPen(c.brass, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.setBrush(Qt::NoBrush);
  const double holdX =
      std::min(at.decay.x(), at.attack.x() + key->envelope.hold.value / shownMs(*key) * f.width());
  p.drawPolyline(QPolygonF({QPointF(f.left(), f.bottom()), at.attack, QPointF(holdX, at.attack.y()),
                            at.decay, sustainEnd, at.release}));
  p.setBrush(c.brass);
  for (const QPointF& corner : {at.attack, at.decay, at.release})
    p.drawEllipse(corner, px(4), px(4));
  const double all = shownMs(*key);
  p.setPen(QPen(c.line, 1));
  for (int i = 0; i <= 4; ++i) {
    const double x = f.left() + f.width() * i / 5;
    p.drawLine(QPointF(x, f.bottom()), QPointF(x, f.bottom() + 4));
    theme::drawText(p, QRectF(x, f.bottom() + 3, px(70), px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("%1 ms").arg(all * i / 5, 0, 'f', 0), theme::Type::Small, c.quiet);
    p.setPen(QPen(c.line, 1));
  }
}

void KeyPicture::mousePressEvent(QMouseEvent* event) {
  const Key* key = findKey(m_session.project(), m_session.selection().key);
  if (!key) return;
  const Corners at = corners(*key);
  const QPointF points[] = {at.attack, at.decay, at.release};
  m_drag = -1;
  double nearest = px(16);
  for (int i = 2; i >= 0; --i)
    if (const double d = QLineF(points[i], event->position()).length(); d < nearest) {
      nearest = d;
      m_drag = i;
    }
  if (m_drag < 0) m_session.strike(key->id, 0.9);
}

void KeyPicture::mouseMoveEvent(QMouseEvent* event) {
  const Key* key = findKey(m_session.project(), m_session.selection().key);
  if (!key) return;
  if (m_drag < 0) {
    const Corners at = corners(*key);
    const bool near = std::min({QLineF(at.attack, event->position()).length(),
                                QLineF(at.decay, event->position()).length(),
                                QLineF(at.release, event->position()).length()}) < px(16);
    setCursor(near ? Qt::SizeAllCursor : Qt::PointingHandCursor);
    return;
  }
  const QRectF f = field();
  const double all = shownMs(*key),
               ms = std::clamp((event->position().x() - f.left()) / f.width(), 0.0, 1.0) * all;
  const double level = std::clamp((f.bottom() - event->position().y()) / f.height(), 0.0, 1.0);
  m_session.edit(tr("Shape the envelope"),
                 withKeyChanged(m_session.project(), key->id,
                                [&](Key& k) {
                                  auto& e = k.envelope;
                                  if (m_drag == 0) e.attack = Milliseconds(ms);
                                  if (m_drag == 1) {
                                    e.decay = Milliseconds(
                                        std::max(0.0, (ms - e.attack.value - e.hold.value) * 2));
                                    e.sustain = level;
                                  }
                                  if (m_drag == 2)
                                    e.release = Milliseconds(std::max(5.0, ms - all / 1.25));
                                }),
                 QStringLiteral("envelope"));
}

void KeyPicture::mouseReleaseEvent(QMouseEvent*) {
  if (m_drag >= 0) m_session.settle();
  m_drag = -1;
}

KeysStage::KeysStage(Session& session, QWidget* parent) : StageView(session, parent) {
  setFocusPolicy(Qt::StrongFocus);
  m_name = new QLineEdit(this);
  m_name->setAccessibleName(tr("Name of the key"));
  m_name->setFont(theme::font(theme::Type::Title));
  m_name->setFixedWidth(px(170));
  m_about = new QLabel(this);
  m_about->setFont(theme::font(theme::Type::Small));
  m_hear = new Chip(tr("Hear"), tr("Play the chosen key (Ctrl+Space)"), this);
  m_gate =
      new Chip(tr("Held"),
               tr("Sounds while held, or for a pin's length; else to its own end (Ctrl+H)"), this);
  m_gate->setCheckable(true);
  m_choke = new Chip(tr("Choke: none"),
                     tr("Keys with the same choke letter cut each other off (Ctrl+J)"), this);
  m_clear = new Chip(tr("Clear"),
                     tr("Take the sound off the key with its hits; can be undone (Delete)"), this);
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  top->addWidget(m_name);
  top->addWidget(m_about, 1);
  for (Chip* chip : {m_hear, m_gate, m_choke, m_clear}) top->addWidget(chip);

  m_level = new Slide(tr("Level"), {-60, 12, 0, 0.5, 1}, tr("dB"), this);
  m_pan = new Slide(tr("Pan"), {-100, 100, 0, 1, 0}, QString(), this);
  m_pan->setFormat([](double v) {
    return v == 0 ? tr("middle") : v < 0 ? tr("left %1").arg(-v) : tr("right %1").arg(v);
  });
  m_tune = new Slide(tr("Tune"), {-24, 24, 0, 1, 0}, tr("st"), this);
  m_fine = new Slide(tr("Fine"), {-100, 100, 0, 1, 0}, tr("ct"), this);
  m_attack = new Slide(tr("Attack"), {0, 2000, 0, 1, 0}, tr("ms"), this);
  m_hold = new Slide(tr("Hold"), {0, 4000, 0, 5, 0}, tr("ms"), this);
  m_decay = new Slide(tr("Decay"), {0, 4000, 0, 5, 0}, tr("ms"), this);
  m_sustain = new Slide(tr("Sustain"), {0, 100, 100, 1, 0}, tr("%"), this);
  m_release = new Slide(tr("Release"), {0, 4000, 40, 5, 0}, tr("ms"), this);
  for (Slide* slide : {m_attack, m_hold, m_decay, m_sustain, m_release})
    slide->setTone(theme::colours().lilac);
  auto* slides = new QGridLayout;
  slides->setHorizontalSpacing(px(12));
  slides->setVerticalSpacing(px(8));
  int column = 0;
  for (Slide* slide : {m_level, m_pan, m_tune, m_fine}) slides->addWidget(slide, 0, column++);
  column = 0;
  for (Slide* slide : {m_attack, m_hold, m_decay, m_sustain, m_release})
    slides->addWidget(slide, 1, column++);
  m_partTitle = new QLabel(this);
  m_partTitle->setFont(theme::font(theme::Type::Strong));
  m_partLevel = new Slide(QString(), {-60, 12, 0, 0.5, 1}, tr("dB"), this);
  m_partLevel->setAccessibleName(tr("Part level"));
  m_partLevel->setFixedWidth(px(150));
  m_partLevel->setTone(theme::colours().mint);
  m_mute = new Chip(tr("Mute"), tr("Silence this part (Ctrl+Shift+M)"), this);
  m_mute->setCheckable(true);
  m_solo = new Chip(tr("Solo"), tr("Hear only this part (Ctrl+Shift+L)"), this);
  m_solo->setCheckable(true);
  auto* part = new QHBoxLayout;
  part->setSpacing(px(8));
  part->addWidget(m_partTitle, 1);
  part->addWidget(m_partLevel);
  part->addWidget(m_mute);
  part->addWidget(m_solo);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(px(20), px(14), px(14), px(12));
  all->setSpacing(px(10));
  all->addLayout(top);
  all->addWidget(new KeyPicture(session, this), 1);
  all->addLayout(slides);
  all->addLayout(part);

  const auto bind = [this](Slide* slide, const QString& name, auto set) {
    connect(slide, &Slide::changed, this, [this, name, set](double v, bool settled) {
      change(
          name, [v, set](Key& k) { set(k, v); }, settled);
    });
  };
  bind(m_level, tr("Key level"), [](Key& k, double v) { k.level = Decibels(v); });
  bind(m_pan, tr("Key pan"), [](Key& k, double v) { k.pan = v / 100; });
  bind(m_tune, tr("Tune a key"), [](Key& k, double v) { k.tune = Semitones(v); });
  bind(m_fine, tr("Fine tune a key"), [](Key& k, double v) { k.fine = Cents(v); });
  bind(m_attack, tr("Attack"), [](Key& k, double v) { k.envelope.attack = Milliseconds(v); });
  bind(m_hold, tr("Hold"), [](Key& k, double v) { k.envelope.hold = Milliseconds(v); });
  bind(m_decay, tr("Decay"), [](Key& k, double v) { k.envelope.decay = Milliseconds(v); });
  bind(m_sustain, tr("Sustain"), [](Key& k, double v) { k.envelope.sustain = v / 100; });
  bind(m_release, tr("Release"), [](Key& k, double v) { k.envelope.release = Milliseconds(v); });
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const Key* key = findKey(m_session.project(), m_session.selection().key);
    const std::string typed = m_name->text().trimmed().toStdString();
    if (!key || typed == nameOf(m_session.project(), *key)) return; // still the one it makes itself
    change(
        tr("Name a key"), [&](Key& k) { k.name = typed; }, true);
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { setFocus(); });
  connect(m_partLevel, &Slide::changed, this, [this](double v, bool settled) {
    changePart(tr("Part level"), [v](Part& x) { x.level = Decibels(v); });
    if (settled) m_session.settle();
  });
  auto* hear = addCommand(tr("Hear the key"), QKeySequence(Qt::CTRL | Qt::Key_Space),
                          [this] { m_session.strike(m_session.selection().key, 0.9); });
  auto* gate = addCommand(tr("Held or to its end"), QKeySequence(Qt::CTRL | Qt::Key_H), [this] {
    change(
        tr("Held or to its end"), [](Key& k) { k.gate = !k.gate; }, true);
  });
  auto* choke = addCommand(tr("Next choke letter"), QKeySequence(Qt::CTRL | Qt::Key_J), [this] {
    change(
        tr("Choke"), [](Key& k) { k.choke = (k.choke + 1) % 9; }, true);
  });
  auto* clear = addCommand(tr("Clear the key"), QKeySequence(Qt::Key_Delete), [this] {
    m_session.edit(tr("Clear a key"), withoutKey(m_session.project(), m_session.selection().key));
  });
  auto* mute = addCommand(tr("Mute the part"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_M),
                          [this] { changePart(tr("Mute"), [](Part& x) { x.muted = !x.muted; }); });
  auto* solo = addCommand(tr("Solo the part"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L),
                          [this] { changePart(tr("Solo"), [](Part& x) { x.solo = !x.solo; }); });
  addCommand(tr("Key to the left"), QKeySequence(Qt::Key_Left), [this] { step(-1, 0); });
  addCommand(tr("Key to the right"), QKeySequence(Qt::Key_Right), [this] { step(1, 0); });
  addCommand(tr("Key above"), QKeySequence(Qt::Key_Up), [this] { step(0, -1); });
  addCommand(tr("Key below"), QKeySequence(Qt::Key_Down), [this] { step(0, 1); });
  for (const auto& [chip, action] : {std::pair{m_hear, hear},
                                     {m_gate, gate},
                                     {m_choke, choke},
                                     {m_clear, clear},
                                     {m_mute, mute},
                                     {m_solo, solo}})
    connect(chip, &QAbstractButton::clicked, action, &QAction::trigger);
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &KeysStage::refresh);
  refresh();
}

/// To the nearest key that holds a sound in that direction.
void KeysStage::step(int columns, int rows) {
  const Key* now = findKey(m_session.project(), m_session.selection().key);
  if (!now) return;
  int row = int(now->row), column = now->column, page = now->page;
  for (int tries = 0; tries < 8 * 64; ++tries) {
    column += columns;
    row += rows;
    if (row < 0 || row > 3) return;
    if (column < 0 || column >= kColumns) {
      if (Row(row) != Row::Cuts) return;
      page += columns; // the cuts go on over the pages
      if (page < 0 || page >= cutPages(m_session.project())) return;
      column = columns > 0 ? 0 : kColumns - 1;
    }
    if (const Key* key = keyAt(m_session.project(), Row(row), column, page)) {
      m_session.selectKey(key->id);
      m_session.strike(key->id, 0.7);
      return;
    }
  }
}

void KeysStage::change(const QString& name, const std::function<void(Key&)>& edit, bool settled) {
  const Id key = m_session.selection().key;
  m_session.edit(name, withKeyChanged(m_session.project(), key, edit), name + QString::number(key));
  if (settled) m_session.settle();
}

void KeysStage::changePart(const QString& name, const std::function<void(Part&)>& edit) {
  if (const Key* key = findKey(m_session.project(), m_session.selection().key))
    m_session.edit(name, withPartChanged(m_session.project(), key->part, edit), name);
}

void KeysStage::refresh() {
  const auto& c = theme::colours();
  const Key* key = findKey(m_session.project(), m_session.selection().key);
  const Source* source = key ? findSource(m_session.project(), key->sound.source) : nullptr;
  const Part* part = key ? findPart(m_session.project(), key->part) : nullptr;
  for (QWidget* w : std::initializer_list<QWidget*>{
           m_name, m_level, m_pan, m_tune, m_fine, m_attack, m_hold, m_decay, m_sustain, m_release,
           m_partLevel, m_gate, m_choke, m_hear, m_clear, m_mute, m_solo})
    w->setEnabled(key);
  if (!m_name->hasFocus())
    m_name->setText(key ? QString::fromStdString(nameOf(m_session.project(), *key)) : tr("No key"));
  QString about;
  if (source)
    about = key->sound.cut != 0 ? tr("a cut of %1").arg(QString::fromStdString(source->name))
            : source->kit       ? tr("from the kit")
                                : tr("all of %1").arg(QString::fromStdString(source->name));
  m_about->setText(about);
  theme::style(m_about, QStringLiteral("color:%1; padding-left:6px").arg(c.quiet.name()));
  m_partTitle->setText(part ? tr("Part: %1").arg(QString::fromStdString(part->name)) : QString());
  if (!key) return;
  m_level->setValue(key->level.value);
  m_pan->setValue(std::round(key->pan * 100));
  m_tune->setValue(key->tune.value);
  m_fine->setValue(key->fine.value);
  m_attack->setValue(key->envelope.attack.value);
  m_hold->setValue(key->envelope.hold.value);
  m_decay->setValue(key->envelope.decay.value);
  m_sustain->setValue(key->envelope.sustain * 100);
  m_release->setValue(key->envelope.release.value);
  m_gate->setChecked(key->gate);
  m_choke->setText(key->choke == 0 ? tr("Choke: none")
                                   : tr("Choke: %1").arg(QChar('a' + key->choke - 1)));
  if (!part) return;
  m_partLevel->setValue(part->level.value);
  m_mute->setChecked(part->muted);
  m_solo->setChecked(part->solo);
}

void KeysStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
