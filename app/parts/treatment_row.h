// A list of treatments in a row of controls: one is open, with its figures.
#pragma once

#include "model/treatment.h"

#include <QObject>
#include <QWidget>
#include <functional>

namespace tuvvo {

class ControlRow;

/// Shows a list and asks for changes of it; whose it is, its owner knows.
class TreatmentRow : public QObject {
  Q_OBJECT
public:
  using Change = std::function<void(std::vector<Treatment>&)>;
  /// @param row      where its controls go, after what is there
  /// @param orderAt  which piece of the chop at a place is heard when
  TreatmentRow(ControlRow& row, std::function<std::vector<int>(std::size_t)> orderAt,
               QObject* parent);

  /// @param elsewhere  it is another thing's list: its last treatment is opened
  void show(const std::vector<Treatment>& list, bool elsewhere);
  /// The next list that is longer has its last treatment open.
  void openLast() { m_open = kMostTreatments; }
  /// Offers the kinds in a menu over a button.
  void offerKinds(QWidget* button);

  [[nodiscard]] static QString nameOfType(const TreatmentType& type);

signals:
  /// Somebody chose a kind.
  void addWanted(const tuvvo::TreatmentType& type);
  /// @param merge  as in Panel::edit()
  void changeWanted(const QString& name, const tuvvo::TreatmentRow::Change& change,
                    const QString& merge);
  void settleWanted();

private:
  void change(const QString& name, const Change& what, const QString& merge = {}) {
    emit changeWanted(name, what, merge);
  }
  void rebuild(const std::vector<Treatment>& list);
  void addFigures(const Treatment& open);
  void addOrder();
  void addActs(const Treatment& open);
  void put(QWidget* widget);

  ControlRow& m_row;
  std::function<std::vector<int>(std::size_t)> m_orderAt;
  std::vector<QWidget*> m_made; ///< widgets of the list and of the open one
  std::vector<Treatment> m_list;
  std::vector<std::function<void(const Treatment&)>> m_follow; ///< figures take their values
  std::size_t m_open = 0;
};

} // namespace tuvvo
