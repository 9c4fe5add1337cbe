#include "crate/overlay_view.h"

#include "base/convert.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/label.h"
#include "widgets/signs.h"

#include <QAbstractListModel>
#include <QHBoxLayout>
#include <QListView>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

/// The ways, as said and as drawn.
class OverlayModel : public QAbstractListModel {
public:
  using QAbstractListModel::QAbstractListModel;
  std::optional<OverlayQuestion> question;
  std::vector<Overlay> ways;
  int sounding = -1;

  void set(std::optional<OverlayQuestion> asked) {
    beginResetModel();
    question = std::move(asked);
    ways = question ? question->best() : std::vector<Overlay>{};
    sounding = -1;
    endResetModel();
  }
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : int(ways.size());
  }
  [[nodiscard]] QString places(const Overlay& way) const {
    const int over = question->overBar(way.over) + 1, under = question->underBar(way.under) + 1;
    QString text = OverlayView::tr("from its bar %1, over bar %2").arg(over).arg(under);
    if (way.offset > 0)
      text += OverlayView::tr(", %1 later")
                  .arg(counted(way.offset, OverlayView::tr("beat"), OverlayView::tr("beats")));
    return text;
  }
  [[nodiscard]] static QString moved(const Overlay& way) {
    if (way.shift == 0) return OverlayView::tr("same pitch");
    return OverlayView::tr("%1%2 st")
        .arg(way.shift > 0 ? QStringLiteral("+") : QString(QChar(0x2212)))
        .arg(std::abs(way.shift));
  }
  [[nodiscard]] static QString figures(const Overlay& way) {
    return OverlayView::tr("tones agree %1 %, room %2 %, taking turns %3 %")
        .arg(toNearest<int>(100 * way.tones))
        .arg(toNearest<int>(100 * way.room))
        .arg(toNearest<int>(100 * way.turns));
  }
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override {
    if (index.row() >= int(ways.size())) return {};
    const Overlay& way = ways[std::size_t(index.row())];
    if (role == Qt::DisplayRole) return places(way);
    if (role == Qt::AccessibleTextRole)
      return QStringLiteral("%1, %2, %3").arg(places(way), moved(way), figures(way));
    if (role == Qt::ToolTipRole)
      return OverlayView::tr("%1. Tones: how well its chords agree with those under it. Room: "
                             "lows, drums and voices do not lie on each other. Turns: they "
                             "play at different places. Enter plays it.")
          .arg(figures(way));
    return {};
  }
};

namespace {

constexpr double kInTheWay =
    0.4; ///< tones or room under it are trouble (common practice, no source)

/// A way: where, how far moved, and three figures as bars.
class WayPainter : public QStyledItemDelegate {
public:
  WayPainter(const OverlayModel& model, QObject* parent)
      : QStyledItemDelegate(parent), m_model(model) {}

  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {px(200), px(42)};
  }

  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const auto& c = theme::colours();
    const Overlay& way = m_model.ways[std::size_t(index.row())];
    p->save();
    const QRectF box = drawRowGround(*p, option.rect, option.state & QStyle::State_Selected);
    const QRectF inner = box.adjusted(px(28), px(3), -px(10), -px(3));
    if (m_model.sounding == index.row())
      drawSoundingSign(*p, QPointF(box.left() + px(15), box.center().y()));
    const QRectF top(inner.left(), inner.top(), inner.width(), inner.height() / 2);
    theme::drawText(*p, top.adjusted(0, 0, -px(80), 0), Qt::AlignLeft | Qt::AlignVCenter,
                    m_model.places(way), theme::Type::Body, c.text);
    theme::drawText(*p, top, Qt::AlignRight | Qt::AlignVCenter, OverlayModel::moved(way),
                    theme::Type::Body, c.text);
    const std::array<std::pair<QString, double>, 3> figures{
        {{OverlayView::tr("tones"), way.tones},
         {OverlayView::tr("room"), way.room},
         {OverlayView::tr("turns"), way.turns}}};
    const double wide = inner.width() / 3;
    const QFontMetricsF metrics(theme::font(theme::Type::Small));
    for (std::size_t f = 0; f < figures.size(); ++f) {
      const QRectF cell(inner.left() + wide * double(f), top.bottom(), wide - px(14),
                        inner.height() / 2);
      const double name = metrics.horizontalAdvance(figures[f].first) + px(6);
      theme::drawText(*p, cell, Qt::AlignLeft | Qt::AlignVCenter, figures[f].first,
                      theme::Type::Small, c.quiet);
      const QRectF rail(cell.left() + name, cell.center().y() - px(2), cell.width() - name, px(4));
      p->setPen(Qt::NoPen);
      p->setBrush(c.line);
      p->drawRoundedRect(rail, 2, 2);
      p->setBrush(figures[f].second < kInTheWay && f < 2 ? c.coral : f < 2 ? c.mint : c.slate);
      p->drawRoundedRect(QRectF(rail.topLeft(), QSizeF(rail.width() * figures[f].second, px(4))), 2,
                         2);
    }
    p->restore();
  }

private:
  const OverlayModel& m_model;
};

} // namespace

OverlayView::OverlayView(Panel& host, Auditions& auditions, QWidget* parent)
    : Panel(host, parent), m_auditions(auditions) {
  m_other =
      new Combo(tr("Over which source"), tr("The source of this beat that lies under it"), this);
  auto* says = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  says->setText(tr("over"));
  m_notice = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_notice->setWraps(true);
  m_model = new OverlayModel(this);
  m_list = new QListView(this);
  m_list->setModel(m_model);
  m_list->setItemDelegate(new WayPainter(*m_model, m_list));
  m_list->setAccessibleName(tr("Ways to lie over it, best first"));
  m_list->setUniformItemSizes(true);
  m_list->setMinimumHeight(px(60)); // with the line over it as much as the other panels need
  m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_list->setStyleSheet(QStringLiteral("QListView { background: transparent; border: none; }"));
  auto* line = new QHBoxLayout;
  line->setSpacing(px(8));
  line->addWidget(says);
  line->addWidget(m_other);
  line->addStretch();
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, px(2), 0, 0);
  all->setSpacing(px(6));
  all->addLayout(line);
  all->addWidget(m_notice);
  all->addWidget(m_list, 1);
  connect(m_other, &QComboBox::activated, this, [this](int row) {
    m_under = m_other->itemData(row).value<SourcePtr>();
    find();
  });
  connect(m_list, &QAbstractItemView::activated, this,
          [this](const QModelIndex& index) { play(index.row()); });
  connect(m_list, &QAbstractItemView::clicked, this,
          [this](const QModelIndex& index) { play(index.row()); });
  connect(&auditions, &Auditions::changed, this, [this] {
    m_model->sounding = -1;
    for (std::size_t i = 0; i < m_model->ways.size() && m_under && m_subject.any(); ++i)
      if (m_auditions.hearsOver(*m_under, *m_subject.source, m_model->ways[i]))
        m_model->sounding = int(i);
    m_list->viewport()->update();
  });
  connect(this, &Panel::changed, this, [this] {
    m_stale = true;
    if (isVisible()) fill();
  });
}

void OverlayView::setSubject(const Subject& subject) {
  const bool same = subject.row == m_subject.row && subject.any() == m_subject.any() &&
                    (!subject.any() || subject.source == m_subject.source ||
                     *subject.source == *m_subject.source);
  m_subject = subject;
  if (same) return;
  m_stale = true;
  if (isVisible()) fill();
}

void OverlayView::showEvent(QShowEvent* event) {
  Panel::showEvent(event);
  if (m_stale) fill();
}

/// The sources of the beat that it can lie over, the one that was chosen before if it is there.
void OverlayView::fill() {
  m_stale = false;
  const auto before = m_under ? m_under->id : Id(0);
  m_under.reset();
  m_other->clear();
  for (const auto& source : project().sources) {
    if (source->kit || !source->heard || !gridOf(*source)) continue;
    if (m_subject.any() && source->hash == m_subject.source->hash) continue;
    m_other->addItem(QString::fromStdString(source->name), QVariant::fromValue(source));
    if (!m_under || source->id == before) {
      m_under = source;
      m_other->setCurrentIndex(m_other->count() - 1);
    }
  }
  m_other->setEnabled(m_other->count() > 0);
  find();
}

void OverlayView::find() {
  const bool any = m_subject.any() && m_under;
  m_model->set(any && m_subject.heard() ? OverlayQuestion::of(*m_under, *m_subject.source)
                                        : std::nullopt);
  QString why;
  if (!m_under)
    why = tr("Put another source with a tempo into this beat: it can lie over that one.");
  else if (m_subject.any() && m_model->ways.empty())
    why = tr("%1 has no tempo to lie over it by: tap it under Correct.")
              .arg(QString::fromStdString(m_subject.source->name));
  m_notice->setText(why);
  m_notice->setVisible(!why.isEmpty());
  m_list->setVisible(!m_model->ways.empty());
  if (!m_model->ways.empty()) m_list->setCurrentIndex(m_model->index(0));
}

void OverlayView::play(int row) {
  if (row < 0 || row >= int(m_model->ways.size()) || !m_under || m_subject.missing) return;
  const Overlay& way = m_model->ways[std::size_t(row)];
  if (m_auditions.hearsOver(*m_under, *m_subject.source, way)) return m_auditions.end();
  m_auditions.auditionOver(m_under, m_subject.source, way);
}

} // namespace tuvvo
