// Keys: the chosen key's sound, envelope, choke and part.
#pragma once

#include "shell/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QLabel;
class QLineEdit;

namespace tuvvo {

/// The sound of the chosen key with the envelope drawn over it, edited by dragging its corners.
class KeyPicture : public QWidget {
  Q_OBJECT
public:
  KeyPicture(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;

private:
  struct Corners {
    QPointF attack, decay, release;
  };
  [[nodiscard]] QRectF field() const;
  [[nodiscard]] double shownMs(const Key& key) const;
  [[nodiscard]] Corners corners(const Key& key) const;

  Session& m_session;
  int m_drag = -1;
};

class KeysStage : public StageView {
  Q_OBJECT
public:
  KeysStage(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void change(const QString& name, const std::function<void(Key&)>& change, bool settled);
  void changePart(const QString& name, const std::function<void(Part&)>& change);
  void step(int columns, int rows);

  QLineEdit* m_name;
  QLabel *m_about, *m_partTitle;
  Slide *m_level, *m_pan, *m_tune, *m_fine, *m_attack, *m_hold, *m_decay, *m_sustain, *m_release,
      *m_partLevel;
  Chip *m_gate, *m_choke, *m_hear, *m_clear, *m_mute, *m_solo;
};

} // namespace tuvvo
