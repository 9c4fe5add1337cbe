// Catching: what comes in, how it is heard, the three ways to catch it, and the sifter.
#pragma once

#include "catch/input_strip.h"
#include "catch/phrase_view.h"
#include "catch/reel_row.h"
#include "panel/panel.h"
#include "session/catch_service.h"

namespace tuvvo {

class Button;
class CaughtStrip;
class ControlRow;
class Label;
class PeaksCache;
class Segments;
class Tick;

class CatchPanel : public Panel {
  Q_OBJECT
public:
  struct Uses {
    CatchService& catching;
    Player& player;
    Transport& transport;
    PhraseService& sifter;
    ReelPlayer& reel;
    Auditions& auditions;
    PeaksCache& peaks;
  };
  CatchPanel(Panel& host, const Uses& uses, QWidget* parent);
  [[nodiscard]] PhraseView& sifter() { return *m_phrases; }

signals:
  void devicesWanted();

private:
  void makeInput(ControlRow& row);
  void makeWays(ControlRow& row);
  void refresh();
  void refreshState();
  void change(const std::function<void(CatchService::Settings&)>& what);

  CatchService& m_catching;
  Player& m_player;
  Transport& m_transport;
  PhraseService& m_sifter;
  Combo *m_input, *m_hear;
  Button *m_devices, *m_measure, *m_begin;
  Tick* m_print;
  Segments* m_modes;
  Slide *m_bars, *m_over, *m_preRoll, *m_silence;
  Label *m_state, *m_about;
  InputStrip* m_strip;
  ReelRow* m_reel;
  PhraseView* m_phrases;
  CaughtStrip* m_caught;
};

} // namespace tuvvo
