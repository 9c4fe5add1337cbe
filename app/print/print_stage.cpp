#include "print/print_stage.h"

#include "notes/notes.h"

#include "base/tempo_map.h"
#include "listen/part_spectrum.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/ask_replace.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/stage_head.h"
#include "widgets/tick.h"

#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr double kTargetLufs =
    -14; // a usual target of streaming services; common practice, no source
struct Kind {
  const char* name;
  FileFormat format;
  SampleFormat samples;
  const char* ending;
};
constexpr std::array<Kind, 7> kKinds{{{"WAV 24 bit", FileFormat::Wav, SampleFormat::Int24, ".wav"},
                                      {"WAV 16 bit", FileFormat::Wav, SampleFormat::Int16, ".wav"},
                                      {"WAV float", FileFormat::Wav, SampleFormat::Float32, ".wav"},
                                      {"FLAC", FileFormat::Flac, SampleFormat::Int24, ".flac"},
                                      {"Ogg", FileFormat::Ogg, SampleFormat::Int16, ".ogg"},
                                      {"Opus", FileFormat::Opus, SampleFormat::Int16, ".opus"},
                                      {"MP3", FileFormat::Mp3, SampleFormat::Int16, ".mp3"}}};
constexpr std::array<int, 3> kRates{48000, 44100, 96000};

QString decibels(double v) {
  if (!std::isfinite(v)) return QStringLiteral("–");
  return QString::number(v, 'f', 1).replace(QLatin1Char('-'), QChar(0x2212));
}
} // namespace

PartStrips::PartStrips(Panel& host, SongMeter& meter, QWidget* parent)
    : PicturePanel(host, parent), m_meter(meter) {
  connect(&meter, &SongMeter::measured, this, &PartStrips::drawAnew);
  setAccessibleName(tr("Parts and their spectra"));
  setToolTip(tr("Where each part really lies, from 25 Hz on the left to 20 kHz on the right, "
                "measured from the printed song."));
}

void PartStrips::draw(QPainter& p) {
  const auto& c = theme::colours();
  const auto& spectra = m_meter.measure().spectra;
  if (spectra.empty()) {
    theme::drawText(p, rect(), Qt::AlignCenter, tr("Measuring the song…"), theme::Type::Body,
                    c.quiet);
    return;
  }
  std::vector<std::pair<const Part*, const std::vector<float>*>> rows;
  float loudest = -120;
  for (const auto& [id, bands] : spectra) {
    const Part* part = findPart(project(), id);
    const float most = bands.empty() ? -120.0f : *std::max_element(bands.begin(), bands.end());
    if (!part || most < -110) continue; // a part that does not sound has no strip
    rows.emplace_back(part, &bands);
    loudest = std::max(loudest, most);
  }
  std::stable_sort(rows.begin(), rows.end(), [&](const auto& a, const auto& b) {
    return theme::placeOf(a.first->role) < theme::placeOf(b.first->role);
  });
  const double left = px(92), axis = px(18), w = width() - left - px(58);
  const double h =
      std::min<double>((height() - axis) / double(std::max<std::size_t>(1, rows.size())), px(34));
  double y = 0;
  for (const auto& [part, bands] : rows) {
    const QRectF box(left, y + 1, w, h - 2);
    p.setPen(Qt::NoPen);
    p.setBrush(c.panel);
    p.drawRoundedRect(box, 3, 3);
    const QColor tone = theme::ofRow(part->role);
    QPolygonF shape;
    shape << box.bottomLeft();
    for (std::size_t b = 0; b < bands->size(); ++b) {
      const double share = std::clamp((double((*bands)[b]) - double(loudest) + 54) / 54, 0.0,
                                      1.0); // 54 dB of picture
      shape << QPointF(box.left() + box.width() * (double(b) + 0.5) / double(bands->size()),
                       box.bottom() - share * (box.height() - 1));
    }
    shape << box.bottomRight();
    p.setBrush(theme::markOf(tone, c.panel, 0.4));
    p.drawPolygon(shape);
    theme::drawText(p, QRectF(px(2), y, left - px(8), h), Qt::AlignLeft | Qt::AlignVCenter,
                    QString::fromStdString(part->name), theme::Type::Small,
                    part->muted ? c.quiet : c.text);
    theme::drawText(p, QRectF(box.right() + px(4), y, px(54), h), Qt::AlignRight | Qt::AlignVCenter,
                    part->muted ? tr("muted") : decibels(part->bus.level.value) + tr(" dB"),
                    theme::Type::Small, c.quiet);
    y += h;
  }
  for (const auto& [band, label] :
       {std::pair{3, "50"}, {6, "100"}, {13, "500"}, {16, "1k"}, {23, "5k"}, {26, "10k"}}) {
    const double x = left + w * (band + 0.5) / kSpectrumBands;
    p.fillRect(QRectF(x, 0, 1, y), theme::mixed(c.line, c.panel, 0.5));
    theme::drawText(p, QRectF(x - px(20), y + 1, px(40), axis - 2), Qt::AlignCenter,
                    QString::fromLatin1(label), theme::Type::Small, c.quiet);
  }
}

PrintSheet::PrintSheet(Panel& host, SongMeter& meter, QWidget* parent)
    : PicturePanel(host, parent), m_meter(meter) {
  connect(&meter, &SongMeter::measured, this, &PrintSheet::drawAnew);
  setAccessibleName(tr("Loudness and source sheet"));
  setMinimumWidth(px(272));
  setMaximumWidth(px(400));
}

void PrintSheet::draw(QPainter& p) {
  const auto& c = theme::colours();
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const double left = px(14), w = width() - 2 * left;
  const auto& loud = m_meter.measure().loudness;
  const bool known = !m_meter.measure().barLoudness.empty();
  theme::drawText(p, QRectF(left, px(8), w, px(20)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("Loudness"), theme::Type::Strong, c.text);
  theme::drawText(p, QRectF(left, px(28), w, px(30)), Qt::AlignLeft | Qt::AlignVCenter,
                  known ? decibels(loud.integratedLufs) + tr(" LUFS") : tr("measuring…"),
                  theme::Type::Figure, c.text);
  // Against the target, from −30 to −6 LUFS.
  const QRectF bar(left, px(62), w, px(8));
  const auto x = [&](double lufs) {
    return bar.left() + std::clamp((lufs + 30) / 24, 0.0, 1.0) * bar.width();
  };
  p.setPen(Qt::NoPen);
  p.setBrush(c.raised);
  p.drawRoundedRect(bar, 4, 4);
  if (known) {
    p.setBrush(std::abs(loud.integratedLufs - kTargetLufs) <= 1 ? c.mint : c.brass);
    p.drawRoundedRect(
        QRectF(bar.left(), bar.top(), x(loud.integratedLufs) - bar.left(), bar.height()), 4, 4);
  }
  p.fillRect(QRectF(x(kTargetLufs), bar.top() - 4, 2, bar.height() + 8), c.text);
  theme::drawText(
      p, QRectF(left, px(72), w, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
      known ? tr("target %1 · range %2 LU · peak %3 dBTP")
                  .arg(decibels(kTargetLufs), decibels(loud.rangeLu), decibels(loud.truePeakDbtp))
            : QString(),
      theme::Type::Small, c.quiet);
  double y = px(104);
  theme::drawText(p, QRectF(left, y, w, px(20)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("Source sheet"), theme::Type::Strong, c.text);
  y += px(22);
  static const std::array<QString, 5> rights{tr("not recorded"), tr("own"), tr("granted"),
                                             tr("asked"), tr("open licence")};
  for (const auto& source : project().sources) {
    // What was made of others is counted with them.
    if (source->kit || source->recipe || y + px(34) > height() - px(34)) continue;
    const double seconds = heardInSong(project(), source->id).value;
    theme::drawText(p, QRectF(left, y, w - px(80), px(17)), Qt::AlignLeft | Qt::AlignVCenter,
                    QString::fromStdString(source->name), theme::Type::Body, c.text);
    theme::drawText(p, QRectF(left, y, w, px(17)), Qt::AlignRight | Qt::AlignVCenter,
                    tr("%1 s heard").arg(seconds, 0, 'f', 1), theme::Type::Small, c.quiet);
    const bool open = source->provenance.recording == Permission::Unrecorded;
    QString line = tr("rights: %1").arg(rights[std::size_t(source->provenance.recording)]);
    if (!source->provenance.note.empty())
      line += QStringLiteral(" · ") + QString::fromStdString(source->provenance.note);
    theme::drawText(p, QRectF(left, y + px(16), w, px(16)), Qt::AlignLeft | Qt::AlignVCenter, line,
                    theme::Type::Small, open ? c.coral : c.quiet);
    y += px(38);
  }
  theme::drawText(p, QRectF(left, height() - px(28), w, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("A record of what was used, not legal advice."), theme::Type::Small, c.quiet);
}

PrintStage::PrintStage(Panel& host, SongMeter& meter, PrintService& printing, QWidget* parent)
    : StageView(host, parent), m_meter(meter), m_printing(printing) {
  setFocusPolicy(Qt::StrongFocus);
  m_format = new Combo(tr("Kind of file"), {}, this);
  for (const auto& kind : kKinds) m_format->addItem(QString::fromLatin1(kind.name));
  m_rate = new Combo(tr("Sample rate"), {}, this);
  for (int rate : kRates) m_rate->addItem(tr("%1 kHz").arg(rate / 1000.0, 0, 'g', 4));
  m_path = new QLineEdit(this);
  m_path->setAccessibleName(tr("File to write"));
  m_path->setToolTip(tr("The file that will be written"));
  m_stems =
      new Tick(tr("Stems too"),
               tr("Each part alone as well, all as long as the song, in a folder beside it"), this);
  m_midi = new Tick(
      tr("MIDI too"),
      tr("What is played, as a MIDI file beside it: one track a part, as it is heard"), this);
  m_ring = new Slide(QString(), {0, 10, 0, 0.5, 1}, tr("s ring"), this);
  m_ring->setId(QStringLiteral("print.ring"));
  m_ring->setAccessibleName(tr("Ring after the end"));
  m_ring->setToolTip(tr("How long the last sounds may ring past the last bar; 0 makes a print of "
                        "exactly whole bars"));
  m_ring->setFixedWidth(px(96));
  auto* head = new StageHead(this);
  head->say(tr("Print"), tr("what each part occupies, how loud it is, what is written"));
  head->addStretch();
  m_measure = head->addNext(tr("Measure"), tr("How loud the song is, and where its parts lie"));
  m_measure->setSign(Sign::Measure);
  m_print = head->addNext(tr("Print"), tr("Write the song (Ctrl+P)"));
  m_print->setSign(Sign::Print);
  connect(m_measure, &QAbstractButton::clicked, &meter, &SongMeter::measureNow);
  connect(&meter, &SongMeter::measured, this, &PrintStage::refresh);
  auto* row = new QHBoxLayout;
  row->setSpacing(px(14));
  auto* left = new QVBoxLayout;
  left->setSpacing(px(6));
  left->addWidget(new PartStrips(*this, meter, this), 1);
  row->addLayout(left, 3);
  row->addWidget(new PrintSheet(*this, meter, this), 1);
  auto* write = new QHBoxLayout;
  write->setSpacing(px(8));
  write->addWidget(m_path, 1);
  for (QWidget* w : std::initializer_list<QWidget*>{m_format, m_rate, m_ring, m_stems, m_midi})
    write->addWidget(w);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(12), px(12));
  column->setSpacing(px(12));
  column->addWidget(head);
  column->addLayout(row, 1);
  column->addLayout(write);
  connect(m_format, &QComboBox::activated, this, &PrintStage::refresh);
  connect(m_path, &QLineEdit::textEdited, this, [this] { m_pathTyped = true; });
  connect(m_path, &QLineEdit::returnPressed, this, [this] { setFocus(); });
  auto* print = addCommand(tr("Print the song"), QKeySequence(Qt::CTRL | Qt::Key_P), [this] {
    const auto wanted = request();
    askToReplace(this, m_printing.replacedBy(wanted),
                 [this, wanted] { m_printing.printSong(wanted, Replace::Yes); });
  });
  addCommand(tr("Stems too"), {}, [this] { m_stems->toggle(); });
  addCommand(tr("MIDI too"), {}, [this] { m_midi->toggle(); });
  connect(m_print, &QAbstractButton::clicked, print, &QAction::trigger);
  connect(this, &Panel::changed, this, &PrintStage::refresh);
  refresh();
}

PrintService::Request PrintStage::request() const {
  const Kind& kind = kKinds[std::size_t(m_format->currentIndex())];
  PrintService::Request request;
  QString path = m_path->text().trimmed();
  if (path.startsWith(QLatin1String("~/"))) path.replace(0, 1, QDir::homePath());
  if (!path.endsWith(QLatin1String(kind.ending), Qt::CaseInsensitive))
    path += QLatin1String(kind.ending);
  request.file.path = path.toStdString();
  request.file.format = kind.format;
  request.file.samples = kind.samples;
  request.file.rate = Hertz(kRates[std::size_t(m_rate->currentIndex())]);
  request.options.ring = Seconds(m_ring->value());
  request.stems = m_stems->isChecked();
  request.midi = m_midi->isChecked();
  return request;
}

void PrintStage::refresh() {
  const Project& p = project();
  const bool measured = !m_meter.measure().barLoudness.empty();
  m_measure->setVisible(!measured);
  m_print->setWeight(measured ? Button::Weight::Next : Button::Weight::Plain);
  const Kind& kind = kKinds[std::size_t(m_format->currentIndex())];
  if (m_pathTyped) {
    const QFileInfo info(m_path->text());
    m_path->setText(info.path() + QLatin1Char('/') + info.completeBaseName() +
                    QLatin1String(kind.ending));
    return;
  }
  // The name carries tempo and key, as people who receive it need them.
  QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  if (folder.isEmpty() || !QFileInfo(folder).isDir())
    folder = QStandardPaths::writableLocation(QStandardPaths::HomeLocation);
  QString name = QString::fromStdString(fileNameOf(p.name)) +
                 QStringLiteral(" %1 BPM").arg(p.tempo.value, 0, 'g', 5);
  if (p.key) name += QLatin1Char(' ') + QString::fromStdString(nameOf(*p.key));
  if (folder.startsWith(QDir::homePath()))
    folder.replace(0, QDir::homePath().size(), QLatin1Char('~'));
  m_path->setText(folder + QLatin1Char('/') + name + QLatin1String(kind.ending));
}

void PrintStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
