// The chosen slices: their name and, panel by panel, everything that can be set on them.
#pragma once

#include "panel/panel.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/slide.h"

#include <QWidget>

class QLineEdit;

namespace tuvvo {

class Label;
class LevelPanel;
class LoudnessCache;
class OutPanel;
class PrintService;
class SourceService;
class Tabs;
class Tick;
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

private:
  using Stays = ControlRow::Stays;
  struct Setting {
    Slide* slide;
    std::function<double(const Key&, const Cut&)> get;
  };
  QWidget* makeHead();
  QWidget* makeSound();
  QWidget* makeEdges();
  QWidget* makePlaying();
  Slide* keySlide(ControlRow* page, const QString& id, const QString& name,
                  const Slide::Range& range, const QString& unit,
                  std::function<double(const Key&)> get, std::function<void(Key&, double)> set,
                  Stays stays = Stays::IfThereIsRoom);
  Slide* cutSlide(ControlRow* page, const QString& id, const QString& name,
                  const Slide::Range& range, std::function<Milliseconds&(Cut&)> value);
  void changeKeys(const QString& name, const std::function<void(Key&)>& change);
  void refresh();
  void refreshTitle(const Source* source, const Cut* cut, const Key* key, std::size_t chosen);

  Page m_panel = Page::Sound;
  Tabs* m_tabs;
  std::array<QWidget*, kPanels> m_pages{};
  TreatPanel* m_treat;
  LevelPanel* m_levels;
  OutPanel* m_out;
  QLineEdit* m_name;
  Label* m_about;
  std::vector<Setting> m_settings;
  Button* m_reverse;
  Tick *m_loop, *m_held;
  Combo *m_method, *m_row, *m_choke;
  std::optional<Key> m_copied;
};

} // namespace tuvvo
