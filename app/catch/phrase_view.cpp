#include "catch/phrase_view.h"
#include "session/music_text.h"

#include "session/clock_text.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/signs.h"
#include "widgets/small_wave.h"

#include <QFileInfo>
#include <QMouseEvent>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

bool single(const Analysis& heard) { return heard.kind.kind == SoundKind::OneShot; }

/// How evenly it is played.
QString steadyText(const Analysis& heard) {
  if (single(heard)) return PhraseView::tr("one sound");
  if (!heard.tempo) return PhraseView::tr("no beat");
  if (!heard.tempo->steady) return PhraseView::tr("wanders");
  const auto uneven = unevennessOf(heard);
  return uneven ? PhraseView::tr("even to %1 ms").arg(uneven->value, 0, 'f', 0) : QString();
}

QString tempoText(const Analysis& heard) {
  return heard.tempo && !single(heard)
             ? PhraseView::tr("%1 BPM").arg(heard.tempo->bpm.value, 0, 'f', 1)
             : QString();
}

QString keyText(const Analysis& heard) {
  return heard.key && heard.key->confidence > 0.3 ? musicText(nameOf(heard.key->name))
                                                  : PhraseView::tr("no key");
}

QString levelText(const Analysis& heard) {
  return std::isfinite(heard.loudness.integratedLufs)
             ? PhraseView::tr("%1 LUFS")
                   .arg(heard.loudness.integratedLufs, 0, 'f', 1)
                   .replace(QLatin1Char('-'), QChar(0x2212))
             : PhraseView::tr("silent");
}

/// A phrase a row: fit, when, picture, tempo and how steady, key, level, star, kept.
class PhrasePainter : public QStyledItemDelegate {
public:
  PhrasePainter(const PhraseService& sifter, QObject* parent)
      : QStyledItemDelegate(parent), m_phrases(sifter) {}

  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {px(300), px(34)};
  }

  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const auto& rows = m_phrases.rows();
    if (index.row() < 0 || std::size_t(index.row()) >= rows.size()) return;
    const PhraseService::Row& row = rows[std::size_t(index.row())];
    const auto& c = theme::colours();
    const SoundPtr& sound = m_phrases.sound();
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(option.rect).adjusted(0, 1, -2, -1);
    const bool selected = option.state & QStyle::State_Selected;
    p->setPen(Qt::NoPen);
    p->setBrush(selected ? c.raised : c.panel);
    p->drawRoundedRect(box, 5, 5);
    if (selected) p->fillRect(QRectF(box.left(), box.top() + 4, 3, box.height() - 8), c.brass);
    double x = box.left() + px(16);
    const QPointF sign(x, box.center().y());
    if (index.row() == m_phrases.sounding())
      drawSoundingSign(*p, sign);
    else
      drawFitSign(*p, sign, row.cost);
    x += px(14);
    const Hertz rate = sound ? sound->rate() : Hertz(48000);
    const auto cell = [&](double width, const QString& text, const QColor& ink,
                          theme::Type type = theme::Type::Small) {
      theme::drawText(*p, QRectF(x, box.top(), width - px(8), box.height()),
                      Qt::AlignLeft | Qt::AlignVCenter, text, type, ink);
      x += width;
    };
    cell(px(58), clockText(toSeconds(row.phrase.start, rate)), c.text, theme::Type::Strong);
    cell(px(52),
         tr("%1 s").arg(toSeconds(row.phrase.end - row.phrase.start, rate).value, 0, 'f', 1),
         c.quiet);
    const double rest = px(76) + px(118) + px(56) + px(84) + px(86);
    const double wave = std::max<double>(px(60), box.right() - x - rest);
    if (sound)
      drawSmallWave(*p, QRectF(x, box.top() + px(3), wave - px(12), box.height() - px(6)), *sound,
                    m_phrases.peaks(), {row.phrase.start, row.phrase.end}, c.slate);
    x += wave;
    cell(px(76), tempoText(row.phrase.heard), c.text);
    cell(px(118), steadyText(row.phrase.heard), c.quiet);
    cell(px(56), keyText(row.phrase.heard), c.text);
    cell(px(84), levelText(row.phrase.heard), c.quiet);
    QString marks;
    if (row.starred) marks = QString(QChar(0x2605));
    if (row.kept) marks += (marks.isEmpty() ? "" : "  ") + tr("kept");
    cell(px(86), marks, row.kept ? c.mint : c.brass);
    p->restore();
  }

private:
  static QString tr(const char* text) { return PhraseView::tr(text); }

  const PhraseService& m_phrases;
};

} // namespace

// ---- the whole take -----------------------------------------------------------------------------

TakePicture::TakePicture(Panel& host, PhraseService& sifter, QWidget* parent)
    : Panel(host, parent), m_phrases(sifter) {
  setAccessibleName(tr("The whole take"));
  setToolTip(tr("The whole take with its phrases; click one to choose it"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  connect(&sifter, &PhraseService::changed, this, [this] { update(); });
}

QSize TakePicture::sizeHint() const { return {px(400), px(44)}; }

double TakePicture::xOf(Frames at) const {
  const SoundPtr& of = m_phrases.sound();
  return of ? double(at.value) / double(std::max<std::int64_t>(1, of->frames().value)) * width()
            : 0;
}

void TakePicture::choose(Frames start) {
  m_chosen = start;
  update();
}

void TakePicture::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(QRectF(rect()), 5, 5);
  const SoundPtr& of = m_phrases.sound();
  if (!of) return;
  const QRectF box = QRectF(rect()).adjusted(0, px(3), 0, -px(9));
  drawSmallWave(p, box, *of, m_phrases.peaks(), {Frames(0), of->frames()},
                theme::markOf(c.slate, c.panel, 0.2));
  for (const auto& row : m_phrases.rows()) {
    const double from = xOf(row.phrase.start), to = xOf(row.phrase.end);
    const bool chosen = row.phrase.start == m_chosen;
    p.fillRect(QRectF(from, height() - px(7), std::max(2.0, to - from - 2), px(4)),
               row.kept ? c.mint
               : chosen ? c.brass
                        : c.quiet);
    if (!chosen) continue;
    QColor over = c.brass;
    over.setAlphaF(0.18f);
    p.fillRect(QRectF(from, 0, to - from, height() - px(8)), over);
  }
}

void TakePicture::mousePressEvent(QMouseEvent* event) {
  for (const auto& row : m_phrases.rows())
    if (event->position().x() >= xOf(row.phrase.start) &&
        event->position().x() < xOf(row.phrase.end))
      emit chosen(row.phrase.start);
}

// ---- the phrases --------------------------------------------------------------------------------

PhraseView::PhraseView(Panel& host, PhraseService& sifter, Auditions& auditions, QWidget* parent)
    : Panel(host, parent), m_phrases(sifter) {
  auto* top = new ControlRow(this);
  makeTop(*top);
  m_picture = new TakePicture(*this, sifter, this);
  m_list = new QListWidget(this);
  m_list->setAccessibleName(tr("Phrases of the take"));
  m_list->setUniformItemSizes(true);
  m_list->setItemDelegate(new PhrasePainter(sifter, m_list));
  m_list->setMinimumHeight(px(108));
  m_list->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored);
  m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_list->setFrameShape(QFrame::NoFrame);
  auto* acts = new ControlRow(this);
  makeActs(*acts);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(6));
  column->addWidget(top);
  column->addWidget(m_picture);
  column->addWidget(m_list, 1);
  column->addWidget(acts);
  connect(m_list, &QListWidget::currentRowChanged, this, [this](int row) {
    if (m_filling || row < 0) return;
    m_byHand = true;
    m_chosen = m_phrases.rows()[std::size_t(row)].phrase.start.value;
    m_picture->choose(Frames(m_chosen));
    refreshActs();
  });
  connect(m_list, &QListWidget::itemActivated, this,
          [this] { m_phrases.play(std::size_t(current()), false); });
  connect(m_picture, &TakePicture::chosen, this, [this](Frames start) {
    const auto& rows = m_phrases.rows();
    for (std::size_t i = 0; i < rows.size(); ++i)
      if (rows[i].phrase.start == start) m_list->setCurrentRow(int(i));
  });
  connect(&sifter, &PhraseService::changed, this, &PhraseView::refresh);
  connect(&auditions, &Auditions::changed, this, &PhraseView::refreshActs);
  refresh();
}

void PhraseView::makeTop(ControlRow& row) {
  m_takes = new Combo(tr("Long take"), tr("Which of the takes on disc is sifted"), this);
  m_takes->setMinimumWidth(px(220));
  m_order = new Combo(tr("Order"), tr("What stands first"), this);
  m_order->addItems({tr("what fits the beat first"), tr("as it was played")});
  m_about = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_about->setLeast(80);
  for (QWidget* w : std::initializer_list<QWidget*>{m_takes, m_order, m_about})
    row.add(w, ControlRow::Stays::Always);
  connect(m_takes, &QComboBox::activated, this, [this](int which) {
    const auto& takes = m_phrases.takes();
    if (which >= 1 && std::size_t(which) <= takes.size())
      m_phrases.open(takes[std::size_t(which) - 1].path);
    else
      m_phrases.close();
  });
  connect(m_order, &QComboBox::activated, this,
          [this](int which) { m_phrases.setOrder(PhraseService::Order(which)); });
}

void PhraseView::makeActs(ControlRow& row) {
  m_hear = new Button(Sign::Play, tr("Hear"),
                      tr("Play the chosen phrase as it is (Enter in the list)"), this);
  m_beside =
      new Button(Sign::Hear, tr("Play in the beat"),
                 tr("Bring the phrase to the beat's tempo and key and play it in time"), this);
  m_star = new Button(Sign::Star, tr("Star"), tr("Mark the phrase as a good one"), this);
  m_keep =
      new Button(Sign::Keep, tr("Keep"), tr("Put the phrase into the beat and the crate"), this);
  m_keepStarred = new Button(tr("Keep the starred"), tr("All that are starred, at once"), this);
  m_drop = new Button(Sign::Remove, tr("Remove the rest"),
                      tr("Move the take to the trash; what you kept of it stays"), this);
  m_back = new Button(Sign::Undo, tr("Restore the take"),
                      tr("Take the take out of the trash again"), this);
  m_star->setCheckable(true);
  m_keep->setWeight(Button::Weight::Next);
  m_drop->setWeight(Button::Weight::Danger);
  for (Button* button : {m_hear, m_beside, m_star, m_keep, m_keepStarred, m_drop, m_back})
    row.add(button);
  const auto act = [this](auto what) {
    return [this, what] {
      if (current() >= 0) what(m_phrases, std::size_t(current()));
    };
  };
  connect(m_hear, &QAbstractButton::clicked, this,
          act([](PhraseService& s, std::size_t i) { s.play(i, false); }));
  connect(m_beside, &QAbstractButton::clicked, this,
          act([](PhraseService& s, std::size_t i) { s.play(i, true); }));
  connect(m_star, &QAbstractButton::clicked, this,
          act([](PhraseService& s, std::size_t i) { s.star(i); }));
  connect(m_keep, &QAbstractButton::clicked, this,
          act([](PhraseService& s, std::size_t i) { s.keep(i); }));
  connect(m_keepStarred, &QAbstractButton::clicked, this, [this] { m_phrases.keepStarred(); });
  connect(m_drop, &QAbstractButton::clicked, this, [this] { m_phrases.dropRest(); });
  connect(m_back, &QAbstractButton::clicked, this, [this] { m_phrases.putBack(); });
}

int PhraseView::current() const { return m_list->currentRow(); }

void PhraseView::refresh() {
  const auto& sifter = m_phrases;
  m_filling = true;
  m_takes->clear();
  m_takes->addItem(sifter.takes().empty() ? tr("no long take yet") : tr("choose a take to sift"));
  for (const auto& take : sifter.takes()) {
    m_takes->addItem(
        tr("%1, %2%3")
            .arg(QFileInfo(QString::fromStdString(take.path.string())).completeBaseName(),
                 clockText(take.length), take.whole ? QString() : tr(", cut off")));
    if (take.path == sifter.path()) m_takes->setCurrentIndex(m_takes->count() - 1);
  }
  const bool open = !sifter.path().empty();
  if (open && m_takes->currentIndex() == 0) {
    m_takes->addItem(QFileInfo(QString::fromStdString(sifter.path().string())).completeBaseName());
    m_takes->setCurrentIndex(m_takes->count() - 1);
  }
  m_takes->setVisible(open || !sifter.takes().empty());
  m_order->setCurrentIndex(int(sifter.order()));
  m_list->clear();
  const Hertz rate = sifter.sound() ? sifter.sound()->rate() : Hertz(48000);
  for (const auto& row : sifter.rows()) {
    auto* item = new QListWidgetItem(m_list);
    item->setText(QStringList{
        clockText(toSeconds(row.phrase.start, rate)), tempoText(row.phrase.heard),
        steadyText(row.phrase.heard), keyText(row.phrase.heard), levelText(row.phrase.heard),
        row.starred ? tr("starred") : QString(), row.kept ? tr("kept") : QString()}
                      .join(QStringLiteral(", ")));
    if (m_byHand && row.phrase.start.value == m_chosen) m_list->setCurrentItem(item);
  }
  if (m_list->currentRow() < 0) m_byHand = false; // another take: the best stands first
  if (m_list->currentRow() < 0 && m_list->count() > 0) {
    m_list->setCurrentRow(0);
    m_chosen = sifter.rows().front().phrase.start.value;
  }
  m_picture->choose(Frames(m_chosen));
  m_filling = false;
  for (QWidget* w : std::initializer_list<QWidget*>{m_picture, m_list, m_order, m_hear, m_beside,
                                                    m_star, m_keep, m_keepStarred, m_drop})
    w->setVisible(open);
  m_back->setVisible(sifter.canPutBack());
  const auto from = QString::fromStdString(sifter.about().input);
  const QString count = counted(m_list->count(), tr("phrase"), tr("phrases"));
  m_about->setText(sifter.sifting()         ? tr("sifting… %1 so far").arg(count)
                   : open && from.isEmpty() ? count
                   : open                   ? tr("%1 from %2").arg(count, from)
                   : sifter.takes().empty() ? tr("Long takes are sifted here.")
                                            : QString());
  refreshActs();
}

void PhraseView::refreshActs() {
  m_list->viewport()->update(); // what sounds has a sign of its own
  const auto& rows = m_phrases.rows();
  const bool any = current() >= 0 && std::size_t(current()) < rows.size();
  for (Button* button : {m_hear, m_beside, m_star, m_keep}) button->setEnabled(any);
  bool starred = false;
  for (const auto& row : rows) starred = starred || (row.starred && !row.kept);
  m_keepStarred->setEnabled(starred);
  m_drop->setEnabled(!m_phrases.sifting());
  if (!any) return;
  const auto& row = rows[std::size_t(current())];
  m_star->setChecked(row.starred);
  m_keep->setEnabled(!row.kept);
  m_hear->setSaid(current() == m_phrases.sounding() ? tr("End it") : tr("Hear"), m_hear->toolTip());
}

} // namespace tuvvo
