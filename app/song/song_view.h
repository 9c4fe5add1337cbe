// The song: sections as cards in a row, as wide as they are long; parts as lines through them; how
// loud each bar is, above.
#pragma once

#include "panel/picture_panel.h"
#include "parts/loop_drag.h"
#include "session/song_meter.h"
#include "session/transport.h"
#include "theme/theme.h"

#include <optional>

namespace tuvvo {

/// Click chooses a section, a part's line in it rests or plays; double-click plays from there.
class SongView : public PicturePanel {
  Q_OBJECT
public:
  SongView(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent);
  [[nodiscard]] Id part() const;
  void stepPart(int steps);

protected:
  void draw(QPainter& p) override;
  void drawMoving(QPainter& p) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  struct Card {
    Section section;
    QRectF box;
    double startBeat, beats;
  };
  [[nodiscard]] std::vector<Card> cards() const;
  [[nodiscard]] std::vector<Part> parts() const;
  [[nodiscard]] QRectF lineOf(const Card& card, std::size_t part) const;
  /// The section that the transport is in while it plays the song; 0 is none.
  [[nodiscard]] Id sounding(const std::vector<Card>& cards) const;
  void drawEnergy(QPainter& p, const std::vector<Card>& cards);
  void drawPartNames(QPainter& p, const Card& first);
  /// The type in which the section's name fits across its card; nothing where it stands upright.
  [[nodiscard]] static std::optional<theme::Type> nameAcross(const Card& card);
  void drawName(QPainter& p, const Card& card, const Pattern* pattern);
  void drawLoop(QPainter& p, const std::vector<Card>& cards);

  /// The song's beat at a place, by the cards.
  [[nodiscard]] double beatAt(double x, const std::vector<Card>& cards) const;
  [[nodiscard]] double xOf(double beat, const std::vector<Card>& cards) const;

  Transport& m_transport;
  LoopDrag m_loop;
  SongMeter& m_meter;
  Id m_part = 0;
  Id m_sounding = 0; ///< the section that is drawn as sounding
};

} // namespace tuvvo
