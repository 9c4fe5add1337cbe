// Keys: the chosen key's sound.
#pragma once

#include "catch/catch_panel.h"
#include "keys/controllers_panel.h"
#include "keys/sound_panel.h"
#include "keys/take_panel.h"
#include "parts/stage_view.h"

class QLineEdit;
class QStackedWidget;

namespace tuvvo {

class EmptyPlace;
class Segments;
class StageHead;
class Tabs;

class KeysStage : public StageView {
  Q_OBJECT
public:
  struct Uses {
    PeaksCache& peaks;
    Player& player;
    Transport& transport;
    Recorder& recorder;
    ControllerService& controllers;
    CatchService& catching;
    PhraseService& sifter;
    ReelPlayer& reel;
    Auditions& auditions;
  };
  KeysStage(Panel& host, const Uses& uses, QWidget* parent);

  /// "level", "envelope", "filters", "layers", "takes", "catch", "controllers", "sifter";
  /// "KEY/layers" chooses a key first.
  bool showPanel(const QString& name) override;
  [[nodiscard]] SoundPanel& sound() { return *m_sound; }
  [[nodiscard]] TakePanel& take() { return *m_take; }
  [[nodiscard]] CatchPanel& catching() { return *m_catch; }

  /// Whether keys are played on what is shown; else it is about what comes in.
  [[nodiscard]] bool playsKeys() const;

signals:
  void devicesWanted();
  void playsKeysChanged();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  static constexpr int kCatchPanel = 2;
  QWidget* makeSoundPage(PeaksCache& peaks);
  void addCommands();
  void refresh();
  void change(const QString& name, const std::function<void(Key&)>& change);
  void flip(const QString& name, bool solo);
  void setLast(int how);
  void openPanel(int panel);
  void step(int columns, int rows);

  QLineEdit* m_name;
  Label* m_about;
  Button *m_hear, *m_clear, *m_next;
  Segments* m_lasts; ///< to its end, held, round
  EmptyPlace* m_empty;
  QWidget* m_soundPage;
  SoundPanel* m_sound;
  TakePanel* m_take;
  CatchPanel* m_catch;
  ControllersPanel* m_controllers;
  QStackedWidget* m_panels;
  StageHead* m_head;
  Tabs* m_tabs;
};

} // namespace tuvvo
