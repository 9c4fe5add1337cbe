// The top of the window: play, record, place, tempo, key, the song's ribbon, the meter.
#pragma once

#include "panel/panel.h"
#include "session/player.h"
#include "session/recorder.h"
#include "session/transport.h"
#include "widgets/slide.h"

#include <QWidget>

namespace tuvvo {

class Button;

class OutputMeter;

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
class SongRibbon : public Panel {
  Q_OBJECT
public:
  SongRibbon(Panel& host, Transport& transport, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  bool event(QEvent* event) override;

private:
  Transport& m_transport;
};

class Header : public Panel {
  Q_OBJECT
public:
  Header(Panel& host, Transport& transport, Recorder& recorder, Player& player, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

private:
  void refresh();

  Transport& m_transport;
  Recorder& m_recorder;
  Player& m_player;
  SignButton *m_play, *m_record, *m_click;
  Slide* m_tempo;
  Button *m_tap, *m_key;
  SongRibbon* m_ribbon;
  OutputMeter* m_meter;
  QRect m_place;
};

} // namespace tuvvo
