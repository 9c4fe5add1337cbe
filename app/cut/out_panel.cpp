#include "cut/out_panel.h"

#include "theme/theme.h"
#include "widgets/ask_replace.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/tick.h"

#include <QFileDialog>

namespace tuvvo {

OutPanel::OutPanel(Panel& host, PrintService& printing, QWidget* parent)
    : Panel(host, parent), m_printing(printing) {
  auto* row = ControlRow::in(this);
  m_how = new Combo(tr("What is written"),
                    tr("As they sound: shape, treatments, level and filters at the beat's tempo"),
                    this);
  m_how->addItems({tr("as they sound"), tr("as they were cut")});
  m_format = new Combo(tr("Kind of file"), QString(), this);
  m_format->addItems({tr("WAV"), tr("FLAC")});
  m_instrument = new Tick(tr("With instrument"), tr("An SFZ file that puts them on keys"), this);
  m_whole = new Tick(tr("With the whole"), tr("The source uncut, with a cue at every slice"), this);
  m_write = new Button(Sign::Export, tr("Write slices…"),
                       tr("Into a folder, with tempo and key in their names (Ctrl+Shift+X)"), this);
  row->add(m_how);
  row->add(m_format);
  for (Tick* tick : {m_instrument, m_whole}) {
    tick->setChecked(true);
    row->add(tick);
  }
  row->add(m_write, ControlRow::Stays::Always);
  connect(m_write, &QAbstractButton::clicked, this, &OutPanel::askWhere);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &OutPanel::refresh);
  refresh();
}

void OutPanel::askWhere() {
  if (!m_write->isEnabled()) {
    emit message(tr("There are no slices to write. Cut the source first."), true);
    return;
  }
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Where the slices go"));
  if (!folder.isEmpty()) writeTo(folder);
}

void OutPanel::writeTo(const QString& folder) {
  SlicesOut options;
  options.folder = folder.toStdString();
  options.format = m_format->currentIndex() == 1 ? FileFormat::Flac : FileFormat::Wav;
  options.asTheySound = m_how->currentIndex() == 0;
  options.instrument = m_instrument->isChecked();
  options.whole = m_whole->isChecked();
  const Id source = selection().source;
  askToReplace(this, m_printing.replacedBy(source, options), [this, source, options] {
    m_printing.writeSlicesTo(source, options, Replace::Yes);
  });
}

void OutPanel::refresh() {
  const Source* s = findSource(project(), selection().source);
  m_write->setEnabled(s && s->sound && !s->cuts.empty());
}

} // namespace tuvvo
