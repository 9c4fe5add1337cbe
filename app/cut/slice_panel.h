// The chosen slices: their name and, leaf by leaf, everything that can be set on them.
#pragma once

#include "session/session.h"
#include "widgets/chip.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

#include <QWidget>

class QLabel;
class QLineEdit;

namespace tuvvo {

class TreatLeaf;
class LevelLeaf;
class OutLeaf;

class SlicePanel : public QWidget {
  Q_OBJECT
public:
  enum class Leaf { Sound, Edges, Playing, Treat, Levels, Out };
  static constexpr std::size_t kLeaves = 6;

  SlicePanel(Session& session, QWidget* parent);
  void showLeaf(Leaf leaf);
  [[nodiscard]] Leaf leaf() const { return m_leaf; }
  /// Keeps the chosen slice's settings, and lays them on the chosen slices.
  void copySettings();
  void pasteSettings();
  void reverse();
  void editName();
  /// The menu of treatments, on its leaf.
  void offerTreatments();
  void matchLevels();
  void writeSlices();

signals:
  /// One of the stage's commands, by its text.
  void commandWanted(const QString& text);

protected:
  void resizeEvent(QResizeEvent*) override;

private:
  void elide();
  struct Setting {
    Slide* slide;
    std::function<double(const Key&, const Cut&)> get;
  };
  QWidget* makeHead();
  QWidget* makeSound();
  QWidget* makeEdges();
  QWidget* makePlaying();
  Slide* keySlide(QWidget* page, const QString& name, const Slide::Range& range,
                  const QString& unit, std::function<double(const Key&)> get,
                  std::function<void(Key&, double)> set);
  Slide* cutSlide(QWidget* page, const QString& name, const Slide::Range& range,
                  std::function<Milliseconds&(Cut&)> value);
  void changeKeys(const QString& name, const std::function<void(Key&)>& change);
  void refresh();
  void refreshTitle(const Source* source, const Cut* cut, const Key* key, std::size_t chosen);

  Session& m_session;
  Leaf m_leaf = Leaf::Sound;
  std::array<Chip*, kLeaves> m_leafChips{};
  std::array<QWidget*, kLeaves> m_pages{};
  TreatLeaf* m_treat;
  LevelLeaf* m_levels;
  OutLeaf* m_out;
  QLineEdit* m_name;
  QLabel* m_about;
  QString m_where;
  std::vector<Setting> m_settings;
  Chip *m_loop, *m_held, *m_choke, *m_reverse;
  Combo *m_school, *m_row;
  std::optional<Key> m_copied;
};

} // namespace tuvvo
