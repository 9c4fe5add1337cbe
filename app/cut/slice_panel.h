// The chosen slices: their name and, panel by panel, everything that can be set on them.
#pragma once

#include "panel/panel.h"
#include "widgets/chip.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

#include <QWidget>

class QLabel;
class QLineEdit;

namespace tuvvo {

class LevelPanel;
class LoudnessCache;
class OutPanel;
class PrintService;
class SourceService;
class TreatPanel;

class SlicePanel : public Panel {
  Q_OBJECT
public:
  struct Uses {
    SourceService& sources;
    LoudnessCache& loudness;
    PrintService& printing;
  };
  SlicePanel(Panel& host, const Uses& uses, QWidget* parent);

  enum class Page { Sound, Edges, Playing, Treat, Levels, Out };
  static constexpr std::size_t kPanels = 6;

  void showPanel(Page panel);
  [[nodiscard]] Page panel() const { return m_panel; }
  /// Keeps the chosen slice's settings, and lays them on the chosen slices.
  void copySettings();
  void pasteSettings();
  void reverse();
  void editName();
  /// The menu of treatments, on its panel.
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
  Slide* keySlide(QWidget* page, const QString& id, const QString& name, const Slide::Range& range,
                  const QString& unit, std::function<double(const Key&)> get,
                  std::function<void(Key&, double)> set);
  Slide* cutSlide(QWidget* page, const QString& id, const QString& name, const Slide::Range& range,
                  std::function<Milliseconds&(Cut&)> value);
  void changeKeys(const QString& name, const std::function<void(Key&)>& change);
  void refresh();
  void refreshTitle(const Source* source, const Cut* cut, const Key* key, std::size_t chosen);

  Page m_panel = Page::Sound;
  std::array<Chip*, kPanels> m_panelChips{};
  std::array<QWidget*, kPanels> m_pages{};
  TreatPanel* m_treat;
  LevelPanel* m_levels;
  OutPanel* m_out;
  QLineEdit* m_name;
  QLabel* m_about;
  QString m_where;
  std::vector<Setting> m_settings;
  Chip *m_loop, *m_held, *m_choke, *m_reverse;
  Combo *m_method, *m_row;
  std::optional<Key> m_copied;
};

} // namespace tuvvo
