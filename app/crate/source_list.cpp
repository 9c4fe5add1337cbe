#include "crate/source_list.h"
#include "session/music_text.h"

#include "parts/source_text.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/signs.h"

#include <QPainter>
#include <QStyledItemDelegate>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

QString secondLine(const CrateRow& row) {
  QStringList parts;
  if (!row.heard)
    parts << (row.path.empty() ? SourceList::tr("listening…") : SourceList::tr("not heard yet"));
  if (row.kind && row.heard) parts << kindText(*row.kind);
  if (row.bars > 0)
    parts << counted(row.bars, SourceList::tr("bar"), SourceList::tr("bars"));
  else if (row.heard)
    parts << lengthText(row.duration);
  if (row.missing) parts << SourceList::tr("file missing");
  if (row.copies > 1) parts << SourceList::tr("%1 copies").arg(row.copies);
  if (row.used) parts << SourceList::tr("used");
  return parts.join(QStringLiteral(" · "));
}

/// One source a row: name and tempo, kind and length and key; how well it fits; stars.
class RowPainter : public QStyledItemDelegate {
public:
  RowPainter(const SourceListModel& model, QObject* parent)
      : QStyledItemDelegate(parent), m_model(model) {}
  BeatNow beat;
  std::string sounding;

  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {px(200), px(46)};
  }

  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const CrateRow* row = m_model.rowAt(index.row());
    if (!row) return;
    const auto& c = theme::colours();
    p->save();
    const QRectF box = drawRowGround(*p, option.rect, option.state & QStyle::State_Selected);
    const double w = box.width() - px(40);
    const QRectF top(box.left() + px(28), box.top() + px(4), w, box.height() / 2 - px(3));
    const QRectF low(top.left(), top.bottom(), w, box.height() / 2 - px(3));
    fitMark(*p, QPointF(box.left() + px(15), box.center().y()), *row);
    QString name = QString::fromStdString(row->name);
    theme::drawText(*p, top.adjusted(0, 0, -px(92), 0), Qt::AlignLeft | Qt::AlignVCenter, name,
                    theme::Type::Strong, row->missing ? c.quiet : c.text);
    if (row->tempo)
      theme::drawText(*p, top, Qt::AlignRight | Qt::AlignVCenter,
                      QStringLiteral("%1 BPM").arg(row->tempo->value, 0, 'f', 2),
                      theme::Type::Small, c.text);
    theme::drawText(*p, low.adjusted(0, 0, -px(80), 0), Qt::AlignLeft | Qt::AlignVCenter,
                    secondLine(*row), theme::Type::Small, row->missing ? c.coral : c.quiet);
    QString right = row->key ? musicText(nameOf(*row->key)) : QString();
    if (row->stars > 0)
      right.prepend(QString(row->stars, QChar(0x2605)) + (right.isEmpty() ? "" : "  "));
    theme::drawText(*p, low, Qt::AlignRight | Qt::AlignVCenter, right, theme::Type::Small, c.quiet);
    p->restore();
  }

private:
  /// How it fits; nothing where that is not known. While it sounds it is a triangle.
  void fitMark(QPainter& p, QPointF at, const CrateRow& row) const {
    if (!sounding.empty() && row.hash == sounding) return drawSoundingSign(p, at);
    if (!row.heard || (!row.tempo && !(row.key && beat.key))) return;
    drawFitSign(p, at, cheapestFit(fitQuestion(row, beat)));
  }

  const SourceListModel& m_model;
};

RowPainter* painterOf(QListView* list) { return static_cast<RowPainter*>(list->itemDelegate()); }

} // namespace

SourceListModel::SourceListModel(Fetch fetch, QObject* parent)
    : QAbstractListModel(parent), m_fetch(std::move(fetch)) {}

void SourceListModel::setRows(std::vector<RowId> rows) {
  m_cache.clear();
  if (rows == m_rows) return refresh();
  // A view that is reset loses its place; one whose rows only change keeps it.
  emit layoutAboutToBeChanged();
  const auto before = persistentIndexList();
  std::vector<std::optional<RowId>> kept;
  for (const auto& index : before)
    kept.push_back(index.row() < int(m_rows.size()) ? std::optional(rowId(index.row()))
                                                    : std::nullopt);
  m_rows = std::move(rows);
  QModelIndexList after;
  for (const auto& row : kept) {
    const int place = row ? placeOf(*row) : -1;
    after << (place >= 0 ? index(place) : QModelIndex());
  }
  changePersistentIndexList(before, after);
  emit layoutChanged();
}

void SourceListModel::refresh() {
  m_cache.clear();
  if (!m_rows.empty()) emit dataChanged(index(0), index(int(m_rows.size()) - 1));
}

int SourceListModel::placeOf(RowId row) const {
  const auto at = std::find(m_rows.begin(), m_rows.end(), row);
  return at == m_rows.end() ? -1 : int(at - m_rows.begin());
}

const CrateRow* SourceListModel::rowAt(int place) const {
  if (place < 0 || place >= int(m_rows.size())) return nullptr;
  if (const CrateRow* known = m_cache.object(place)) return known;
  auto row = m_fetch(m_rows[std::size_t(place)]);
  if (!row) return nullptr;
  auto* kept = new CrateRow(std::move(*row));
  m_cache.insert(place, kept);
  return kept;
}

int SourceListModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(m_rows.size());
}

QVariant SourceListModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  const CrateRow* row = rowAt(index.row());
  if (!row) return {};
  const QString name = QString::fromStdString(row->name);
  if (role == Qt::DisplayRole) return name;
  if (role == Qt::ToolTipRole) return QString::fromStdString(row->path);
  return QStringLiteral("%1, %2, %3, %4")
      .arg(name, secondLine(*row),
           row->tempo ? QStringLiteral("%1 BPM").arg(row->tempo->value, 0, 'f', 2) : tr("no tempo"),
           row->key ? musicText(nameOf(*row->key)) : tr("no key"));
}

SourceList::SourceList(SourceListModel* model, QWidget* parent)
    : QListView(parent), m_model(model) {
  setModel(model);
  setItemDelegate(new RowPainter(*model, this));
  setAccessibleName(tr("Sources"));
  setUniformItemSizes(true);
  setStyleSheet(QStringLiteral("QListView { background: transparent; border: none; }"));
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
}

void SourceList::setBeat(const BeatNow& beat) {
  painterOf(this)->beat = beat;
  viewport()->update();
}

void SourceList::setSounding(const std::string& hash) {
  painterOf(this)->sounding = hash;
  viewport()->update();
}

void SourceList::setEmptyText(const QString& text) {
  m_emptyText = text;
  viewport()->update();
}

std::optional<RowId> SourceList::current() const {
  const int place = currentIndex().row();
  if (!currentIndex().isValid() || place >= m_model->rowCount()) return std::nullopt;
  return m_model->rowId(place);
}

void SourceList::choose(RowId row) {
  const int place = m_model->placeOf(row);
  if (place >= 0 && place != currentIndex().row()) setCurrentIndex(m_model->index(place));
}

void SourceList::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  QListView::currentChanged(current, previous);
  if (current.isValid()) emit chosen();
}

void SourceList::paintEvent(QPaintEvent* event) {
  QListView::paintEvent(event);
  if (m_model->rowCount() > 0 || m_emptyText.isEmpty()) return;
  QPainter p(viewport());
  p.setFont(theme::font(theme::Type::Body));
  p.setPen(theme::colours().quiet);
  p.drawText(QRectF(viewport()->rect()).adjusted(px(6), px(20), -px(6), 0),
             int(Qt::AlignTop | Qt::AlignLeft) | Qt::TextWordWrap, m_emptyText);
}

} // namespace tuvvo
