// The list of sources: of the beat, of the crate, of the service.
#pragma once

#include "crate/subject.h"

#include <QAbstractListModel>
#include <QCache>
#include <QListView>

namespace tuvvo {

/// Rows by their names; what stands in them is fetched when they are shown, so that a hundred
/// thousand cost no more than twenty.
class SourceListModel : public QAbstractListModel {
  Q_OBJECT
public:
  using Fetch = std::function<std::optional<CrateRow>(RowId)>;
  SourceListModel(Fetch fetch, QObject* parent);

  void setRows(std::vector<RowId> rows);
  /// What stands in the rows may have changed.
  void refresh();
  [[nodiscard]] const std::vector<RowId>& rows() const { return m_rows; }
  [[nodiscard]] RowId rowId(int place) const { return m_rows[std::size_t(place)]; }
  /// −1 when it is not there.
  [[nodiscard]] int placeOf(RowId row) const;
  [[nodiscard]] const CrateRow* rowAt(int place) const;

  int rowCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;

private:
  Fetch m_fetch;
  std::vector<RowId> m_rows;
  mutable QCache<int, CrateRow> m_cache{400};
};

class SourceList : public QListView {
  Q_OBJECT
public:
  SourceList(SourceListModel* model, QWidget* parent);
  void setBeat(const BeatNow& beat);
  /// The row that is heard now.
  void setSounding(const std::string& hash);
  /// Said in the middle of an empty list.
  void setEmptyText(const QString& text);
  [[nodiscard]] std::optional<RowId> current() const;
  void choose(RowId row);

signals:
  void chosen();

protected:
  void paintEvent(QPaintEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

private:
  SourceListModel* m_model;
  QString m_emptyText;
};

} // namespace tuvvo
