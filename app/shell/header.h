// The top of the window: play, record, place, tempo, key, the song's ribbon, the meter.
#pragma once

#include "session/session.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

#include <QWidget>

namespace tuvvo {

/// A round button with a drawn sign.
class SignButton : public QAbstractButton {
  Q_OBJECT
public:
  enum class Sign { Play, Stop, Record, Click };
  SignButton(Sign sign, const QString& name, const QString& tip, QWidget* parent);
  void setSign(Sign sign) {
    m_sign = sign;
    update();
  }
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Sign m_sign;
};

/// The whole song as a thin ribbon; a click goes there.
class SongRibbon : public QWidget {
  Q_OBJECT
public:
  SongRibbon(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;

private:
  Session& m_session;
};

class OutputMeter : public QWidget {
  Q_OBJECT
public:
  OutputMeter(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override {
    m_hold = 0;
    update();
  }

private:
  Session& m_session;
  float m_hold = 0;
};

class Header : public QWidget {
  Q_OBJECT
public:
  Header(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();

  Session& m_session;
  SignButton *m_play, *m_record, *m_click;
  Slide* m_tempo;
  Chip *m_tap, *m_key, *m_mode;
  SongRibbon* m_ribbon;
  QRect m_place;
};

} // namespace tuvvo
