// What a break plays: a row a class (and a second one for what has none, where that is more than
// one drum), a sign a hit; unsure ones hollow. Dragging a hit to another row says what it is.
#pragma once

#include "beat/read_break.h"
#include "panel/picture_panel.h"
#include "session/auditions.h"

namespace tuvvo {

class BreakView : public PicturePanel {
  Q_OBJECT
public:
  BreakView(Panel& host, Auditions& auditions, QWidget* parent);
  /// @param reading  of the source; what was chosen stays so where it is there again
  void setReading(Id source, std::optional<BreakReading> reading);
  [[nodiscard]] const ReadHit* chosen() const;
  /// Calls the chosen hit by another class; offers those that sound like it.
  void moveChosen(HitClass to);
  void chooseNext(int steps);
  /// The next hit that is not sure.
  void chooseUnsure();
  [[nodiscard]] QPointF placeOf(const ReadHit& hit) const;
  /// The first row of a class.
  [[nodiscard]] QRectF rowOf(HitClass hit) const;
  [[nodiscard]] QSize sizeHint() const override;

signals:
  void chosenChanged();
  /// A hit was called by another class; so many of its group still have the old one.
  void moved(Seconds at, HitClass from, HitClass to, int alike);

protected:
  void draw(QPainter& p) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  void choose(std::size_t index, bool hears);
  void playHit(const ReadHit& hit);
  /// A class; of what has none, the commonest drum or the rest.
  struct RowShown {
    HitClass hit;
    bool rest = false;
  };
  [[nodiscard]] double xOf(double beat) const;
  [[nodiscard]] QRectF rowBox(std::size_t row) const;
  [[nodiscard]] std::size_t rowIndex(const ReadHit& hit) const;
  [[nodiscard]] std::size_t rowAt(double y) const;

  Auditions& m_auditions;
  Id m_source = 0;
  std::optional<BreakReading> m_reading;
  std::vector<RowShown> m_rows;
  int m_commonest = -1; ///< group of what has no class
  Seconds m_at{-1};     ///< the chosen hit
  HitClass m_class = HitClass::Kick;
  bool m_dragging = false;
  double m_dragY = 0;
};

} // namespace tuvvo
