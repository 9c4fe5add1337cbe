// One ribbon a part. A stem is a hit: height is velocity, its micro-timing is its true lead or lag.
#pragma once

#include "beat/hit_choice.h"
#include "panel/panel.h"
#include "session/transport.h"
#include "tones/bass_line.h"

#include <QPixmap>
#include <QWidget>

namespace tuvvo {

class RibbonsView : public Panel {
  Q_OBJECT
public:
  RibbonsView(Panel& host, Transport& transport, HitChoice& choice, QWidget* parent);

  /// Lines in a beat that hits are set on; 0: none.
  [[nodiscard]] int grid() const { return m_grid; }
  void setGrid(int perBeat);
  [[nodiscard]] Id currentPart() const;
  /// Makes a part the current one.
  void showPart(Id part);
  [[nodiscard]] Beats cursor() const { return Beats(m_cursor); }
  /// Opens a part into a pitch ribbon: a row a note, with the key's scale, the chord under every
  /// place, and glides.
  void setOpen(Id part, bool open);
  void flipOpen(Id part) { setOpen(part, !m_open.contains(part)); }
  [[nodiscard]] bool isOpen(Id part) const { return m_open.contains(part); }
  /// The chords over the pattern, as heard or written.
  [[nodiscard]] const std::vector<ChordSpan>& chords() const { return m_chords; }
  [[nodiscard]] bool hasHitAtCursor() const;
  void toggleHitAtCursor();
  void moveCursor(int steps, int ribbons);
  /// Shows so much of the pattern around a beat. @param factor  below 1 shows less
  void zoom(double factor, double aroundBeat);
  void showAll();
  /// How much is shown, in beats, and from where.
  [[nodiscard]] double shown() const;
  [[nodiscard]] double from() const { return m_from; }
  [[nodiscard]] int heightNeeded() const;
  [[nodiscard]] QSize sizeHint() const override { return {600, heightNeeded()}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {200, heightNeeded()}; }
  /// Where a beat is drawn, in the widget; for the strip above.
  [[nodiscard]] double xOf(double beat) const;
  [[nodiscard]] double beatAt(double x) const;

signals:
  void partChanged();
  void cursorMoved();
  void wantsSight(QRect ribbon);
  void viewChanged(); ///< another stretch of the pattern is shown

protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  /// Notes of an open ribbon, MIDI; none where the highest is below the lowest.
  struct Rows {
    int lowest = 0, highest = -1;
  };
  struct Ribbon {
    Part part;
    QRectF box;
    bool tones; ///< hits are at pitches
    Rows rows;
    [[nodiscard]] bool open() const { return rows.highest >= rows.lowest; }
  };
  enum class Drag { None, Hits, Length, Band };
  [[nodiscard]] std::vector<Ribbon> ribbons() const;
  [[nodiscard]] PatternPtr pattern() const;
  [[nodiscard]] double beats() const;
  [[nodiscard]] std::int64_t step() const;
  [[nodiscard]] double toneY(const Ribbon& ribbon, const Lane& lane, const Hit& hit) const;
  // ribbons_tones.cpp
  void makeRows(bool anew);
  [[nodiscard]] double rowHeight(const Ribbon& ribbon) const;
  [[nodiscard]] double noteY(const Ribbon& ribbon, int note) const;
  [[nodiscard]] int noteAt(const Ribbon& ribbon, double y) const;
  [[nodiscard]] int noteForNew(const Ribbon& ribbon, Beats at) const;
  void analyseChords();
  void bringIntoSight();
  void drawNotes(QPainter& p, const Ribbon& ribbon);
  void drawChordNames(QPainter& p, const Ribbon& ribbon);
  void drawNoteNames(QPainter& p, const Ribbon& ribbon);
  void drawGlides(QPainter& p, const Ribbon& ribbon, const Lane& lane, const ResolvedTiming& timed);
  [[nodiscard]] QPointF tipOf(const Ribbon& ribbon, double heardTicks, double velocity) const;
  [[nodiscard]] Id keyForNew(const Part& part) const;
  [[nodiscard]] const Hit* hitAt(const Ribbon& ribbon, const Lane& lane, QPointF at,
                                 bool* atEnd) const;
  void choosePart(Id part);
  void stayOnPart();
  void noticeChange();
  void noticeChoice();
  void addHit(const Ribbon& ribbon, Beats at, double velocity, std::optional<int> note = {});
  void dragHits(const Ribbon& ribbon, QPointF moved, bool leans);
  [[nodiscard]] Id headAt(QPointF at) const;
  void dragOver(Id part);
  void chooseBand();
  // ribbons_paint.cpp
  void draw(QPainter& p, bool all);
  void drawHead(QPainter& p, const Ribbon& ribbon, const Lane* lane);
  void drawLines(QPainter& p, const Ribbon& ribbon);
  void drawLane(QPainter& p, const Ribbon& ribbon, const Lane& lane);
  void drawStruck(QPainter& p, const Ribbon& ribbon, const Lane& lane, double now);
  void drawCrowd(QPainter& p, const Ribbon& ribbon, const Lane& lane, const ResolvedTiming& timed);
  void drawHit(QPainter& p, const Ribbon& ribbon, const Hit& hit, double fromBeat,
               const ResolvedTiming& timed, bool ghost);
  void drawTone(QPainter& p, const Ribbon& ribbon, const Lane& lane, const Hit& hit,
                double fromBeat, const ResolvedTiming& timed, bool ghost);
  void drawTreated(QPainter& p, const Hit& hit, QPointF middle);
  void drawMarks(QPainter& p, const Ribbon& ribbon, const Hit& hit, QPointF tip);

  Transport& m_transport;
  HitChoice& m_choice;
  int m_grid = 4;
  Id m_part = 0, m_seen = 0;       ///< m_seen: the pattern shown last
  std::int64_t m_cursor = 0;       ///< ticks
  double m_from = 0, m_span = 0;   ///< beats shown; 0: all
  QPixmap m_picture;               ///< everything but what moves
  bool m_stale = true;             ///< all of it
  int m_generation = 0;            ///< of the theme that it was painted in
  std::set<Id> m_dirty;            ///< or the ribbons of these parts
  std::map<Id, Rows> m_open;       ///< parts that are open
  Id m_sight = 0;                  ///< a part to be brought into sight once there is room for it
  std::vector<ChordSpan> m_chords; ///< while any part is open
  std::vector<QRectF> m_boxes;     ///< of the ribbons in it
  ProjectPtr m_drawnProject;
  PatternPtr m_drawn;
  std::set<Id> m_drawnChoice; ///< parts
  Drag m_drag = Drag::None;
  QPointF m_press, m_band;
  Id m_target = 0; ///< the part whose name dragged hits are held over
  HitClip m_pressed;
};

} // namespace tuvvo
