// Print: the parts with the spectrum each occupies, loudness, what will be written, the source
// sheet.
#pragma once

#include "panel/picture_panel.h"
#include "parts/stage_view.h"
#include "session/print_service.h"
#include "session/song_meter.h"
#include "widgets/slide.h"

class QComboBox;
class QLineEdit;

namespace tuvvo {

class Button;
class Tick;

/// Parts by role, each as a strip with the spectrum that it really occupies and its level.
class PartStrips : public PicturePanel {
  Q_OBJECT
public:
  PartStrips(Panel& host, SongMeter& meter, QWidget* parent);

protected:
  void draw(QPainter& p) override;

private:
  const SongMeter& m_meter;
};

/// Integrated loudness against a target, range and true peak; then the source sheet.
class PrintSheet : public PicturePanel {
  Q_OBJECT
public:
  PrintSheet(Panel& host, SongMeter& meter, QWidget* parent);

protected:
  void draw(QPainter& p) override;

private:
  const SongMeter& m_meter;
};

class PrintStage : public StageView {
  Q_OBJECT
public:
  PrintStage(Panel& host, SongMeter& meter, PrintService& printing, QWidget* parent);
  /// What the controls say; the folder is the one that was written to last.
  [[nodiscard]] PrintService::Request request() const;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();

  QComboBox *m_format, *m_rate;
  QLineEdit* m_path;
  Tick *m_stems, *m_midi;
  Button *m_print, *m_measure;
  Slide* m_ring;
  bool m_pathTyped = false;

  SongMeter& m_meter;
  PrintService& m_printing;
};

} // namespace tuvvo
