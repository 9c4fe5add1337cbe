// What a controller plays: each of its notes on the deck, each of its knobs on its slide, and what
// was struck or turned just now.
#pragma once

#include "panel/picture_panel.h"
#include "session/controller_service.h"

namespace tuvvo {

class ControllerPicture : public PicturePanel {
  Q_OBJECT
public:
  ControllerPicture(Panel& host, ControllerService& controllers, QWidget* parent);
  void setPort(const std::optional<MidiPortName>& port);
  /// Notes that play a place of the deck, lowest first.
  [[nodiscard]] std::vector<int> notesOf(DeckSpot spot) const;
  /// How much a place is lit: the velocity of the last note, fading; 0 to 1.
  [[nodiscard]] double litOf(DeckSpot spot) const;

protected:
  void draw(QPainter& p) override;

private:
  void drawDeck(QPainter& p, const QRectF& box);
  void drawPitches(QPainter& p, const QRectF& box);
  void drawKnobs(QPainter& p, const QRectF& box);
  [[nodiscard]] double litOfNote(int note) const;

  struct Struck {
    int velocity = 0;
    QElapsedTimer since;
  };
  ControllerService& m_controllers;
  std::optional<MidiPortName> m_port;
  std::map<int, Struck> m_struck;
  std::map<int, int> m_turned; ///< controller number: its value
  QTimer m_fade;
};

} // namespace tuvvo
