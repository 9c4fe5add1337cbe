#include "keys/controller_picture.h"

#include "base/convert.h"
#include "listen/spelling.h"
#include "mix/every_parameter.h"
#include "session/music_text.h"
#include "theme/theme.h"
#include "tones/theory.h"

#include <QPainter>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kFadeMs = 900;
constexpr int kLowest = 24, kHighest = 96; ///< notes that are drawn where they are pitches

/// What a slide is called, by its id.
QString nameOfSlide(const std::string& id) {
  static const std::vector<NamedParameter> all = everyParameter();
  for (const auto& each : all)
    if (each.id == id)
      return QString::fromUtf8(each.parameter->name.data(), qsizetype(each.parameter->name.size()));
  return QString::fromStdString(id);
}

} // namespace

ControllerPicture::ControllerPicture(Panel& host, ControllerService& controllers, QWidget* parent)
    : PicturePanel(host, parent), m_controllers(controllers) {
  setAccessibleName(tr("What the controller plays"));
  setToolTip(tr("Each note of the controller on the key that it plays; what was played lights up. "
                "Below, what its knobs and faders move."));
  setMinimumHeight(px(120));
  connect(&controllers, &ControllerService::changed, this, &ControllerPicture::drawAnew);
  connect(&controllers, &ControllerService::noteCame, this,
          [this](const MidiPortName& port, int note, int velocity) {
            if (!m_port || !(port == *m_port)) return;
            m_struck[note].velocity = velocity;
            m_struck[note].since.start();
            m_fade.start(33);
            drawAnew();
          });
  connect(&controllers, &ControllerService::controlCame, this,
          [this](const MidiPortName& port, int number, int value) {
            if (!m_port || !(port == *m_port)) return;
            m_turned[number] = value;
            drawAnew();
          });
  connect(&m_fade, &QTimer::timeout, this, [this] {
    std::erase_if(m_struck,
                  [](const auto& each) { return double(each.second.since.elapsed()) > kFadeMs; });
    if (m_struck.empty()) m_fade.stop();
    drawAnew();
  });
}

void ControllerPicture::setPort(const std::optional<MidiPortName>& port) {
  if (port == m_port) return;
  m_port = port;
  m_struck.clear();
  m_turned.clear();
  drawAnew();
}

std::vector<int> ControllerPicture::notesOf(DeckSpot spot) const {
  std::vector<int> notes;
  if (!m_port) return notes;
  const ControllerSettings settings = m_controllers.settings(*m_port);
  for (int note = 0; note < 128; ++note)
    if (const auto at = settings.spotOf(note);
        at && at->row == spot.row && at->column == spot.column)
      notes.push_back(note);
  return notes;
}

double ControllerPicture::litOfNote(int note) const {
  const auto found = m_struck.find(note);
  if (found == m_struck.end()) return 0;
  const double left = 1 - double(found->second.since.elapsed()) / kFadeMs;
  return std::max(0.0, left) * found->second.velocity / 127.0;
}

double ControllerPicture::litOf(DeckSpot spot) const {
  double lit = 0;
  for (int note : notesOf(spot)) lit = std::max(lit, litOfNote(note));
  return lit;
}

/// As the deck lies: a tile for each place, with the notes that play it.
void ControllerPicture::drawDeck(QPainter& p, const QRectF& box) {
  const auto& c = theme::colours();
  const double gap = px(5), high = std::min<double>((box.height() - 3 * gap) / kRowCount, px(54)),
               wide = (box.width() - px(60)) / kColumns;
  for (int r = 0; r < kRowCount; ++r) {
    const Row row = Row(r);
    const double top = box.top() + r * (high + gap);
    theme::drawText(p, QRectF(box.left(), top, px(54), high), Qt::AlignLeft | Qt::AlignVCenter,
                    rowText(row), theme::Type::Small, theme::ofRow(row));
    for (int column = 0; column < kColumns; ++column) {
      const QRectF tile(box.left() + px(60) + column * wide, top, wide - gap, high);
      const auto notes = notesOf({row, column});
      const Key* key = m_controllers.keyAt({row, column});
      const double lit = litOf({row, column});
      p.setPen(QPen(notes.empty() ? theme::mixed(c.line, c.ground, 0.5)
                    : lit > 0     ? theme::ofRow(row)
                                  : c.line,
                    1));
      p.setBrush(notes.empty() ? QBrush(Qt::NoBrush)
                               : QBrush(theme::mixed(theme::ofRow(row), c.panel, 0.55 * lit)));
      p.drawRoundedRect(tile, 6, 6);
      if (notes.empty()) continue;
      QStringList names;
      for (int note : notes) names << QString::number(note);
      const QRectF text = tile.adjusted(px(8), px(2), -px(6), -px(2));
      theme::drawText(p, QRectF(text.left(), text.top(), text.width(), text.height() / 2),
                      Qt::AlignLeft | Qt::AlignVCenter,
                      tr("%1 · %2").arg(names.join(QLatin1Char(' ')),
                                        musicText(speltNote(notes.front(), project().key))),
                      theme::Type::Small, lit > 0.3 ? c.text : c.quiet);
      theme::drawText(p, QRectF(text.left(), text.center().y(), text.width(), text.height() / 2),
                      Qt::AlignLeft | Qt::AlignVCenter,
                      key ? nameText(project(), *key) : tr("nothing"), theme::Type::Body,
                      key ? c.text : c.quiet);
    }
  }
}

/// Notes are pitches of one key: a strip of them, the chosen key's own pitch at middle C.
void ControllerPicture::drawPitches(QPainter& p, const QRectF& box) {
  const auto& c = theme::colours();
  const Key* key = findKey(project(), selection().key);
  theme::drawText(p, QRectF(box.left(), box.top(), box.width(), px(20)),
                  Qt::AlignLeft | Qt::AlignVCenter,
                  key ? tr("Every note plays %1 at its pitch; middle C as it is.")
                            .arg(nameText(project(), *key))
                      : tr("Choose a key of the deck: every note plays it at its pitch."),
                  theme::Type::Body, c.text);
  const double wide = box.width() / (kHighest - kLowest + 1), high = px(72),
               top = box.top() + px(26);
  for (int note = kLowest; note <= kHighest; ++note) {
    const QRectF tile(box.left() + (note - kLowest) * wide, top, wide - 2, high);
    const double lit = litOfNote(note);
    const bool inKey = !project().key || inScale(*project().key, note % 12);
    p.setPen(Qt::NoPen);
    p.setBrush(theme::mixed(c.lilac, inKey ? c.raised : c.panel, lit));
    p.drawRoundedRect(tile, 3, 3);
    if (note % 12 == 0)
      theme::drawText(p, QRectF(tile.left() - px(8), tile.bottom() + 2, px(32), px(16)),
                      Qt::AlignLeft, musicText(speltNote(note, {})), theme::Type::Small,
                      note == 60 ? c.brass : c.quiet);
  }
}

void ControllerPicture::drawKnobs(QPainter& p, const QRectF& box) {
  const auto& c = theme::colours();
  const auto slides = m_controllers.settings(*m_port).slides;
  if (slides.empty()) {
    theme::drawText(p, box, Qt::AlignLeft | Qt::AlignVCenter,
                    tr("Its knobs and faders move nothing yet. Right-click any slide to give it "
                       "one."),
                    theme::Type::Small, c.quiet);
    return;
  }
  double x = box.left();
  for (const auto& [number, slide] : slides) {
    const QRectF tile(x, box.top(), px(150), box.height());
    if (tile.right() > box.right()) break;
    const auto value = m_turned.find(number);
    p.setPen(QPen(c.line, 1));
    p.setBrush(c.panel);
    p.drawRoundedRect(tile, 6, 6);
    if (value != m_turned.end())
      p.fillRect(QRectF(tile.left() + 2, tile.bottom() - px(5),
                        (tile.width() - 4) * value->second / 127.0, px(3)),
                 c.slate);
    theme::drawText(p, tile.adjusted(px(8), 0, -px(6), 0), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("%1 · %2").arg(number).arg(nameOfSlide(slide)), theme::Type::Small, c.text);
    x += tile.width() + px(6);
  }
}

void ControllerPicture::draw(QPainter& p) {
  if (!m_port) return;
  const double knobs = px(30);
  const QRectF all = QRectF(rect()).adjusted(1, 1, -1, -1);
  const QRectF top(all.left(), all.top(), all.width(), all.height() - knobs - px(8));
  if (m_controllers.settings(*m_port).layout == NoteLayout::Pitch)
    drawPitches(p, top);
  else
    drawDeck(p, top);
  const double deck = std::min<double>(top.height(), kRowCount * px(54) + 3 * px(5));
  drawKnobs(p, QRectF(all.left(), all.top() + deck + px(8), all.width(), knobs));
}

} // namespace tuvvo
