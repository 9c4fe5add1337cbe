// What stands in a row and behind it, whichever list it is in.
#include "audio/decode.h"
#include "crate/crate_stage.h"
#include "crate/reach_map.h"
#include "crate/source_list.h"
#include "formats/shipped.h"
#include "listen/intake.h"
#include "session/crate_service.h"

namespace tuvvo {

namespace {
constexpr std::size_t kMostDots = 150; // the nearest
} // namespace

const SampleService* CrateStage::service() {
  if (!m_serviceTried) {
    m_serviceTried = true;
    auto opened = SampleService::open(dataFolder() / "service");
    if (opened)
      m_service = std::move(opened).value();
    else
      emit message(QString::fromStdString(opened.error().text()), true);
  }
  return m_service ? &*m_service : nullptr;
}

std::optional<CrateRow> CrateStage::rowOf(RowId row) {
  if (row.scope == Scope::Crate) {
    if (!m_crate.crate()) return std::nullopt;
    auto found = m_crate.crate()->row(row.id);
    return found ? *found : std::nullopt;
  }
  if (row.scope == Scope::Service) {
    const ServiceItem& item = service()->items()[std::size_t(row.id - 1)];
    CrateRow out;
    out.name = item.title;
    out.kind = item.kind;
    out.heard = true;
    out.duration = item.duration;
    out.bars = item.bars;
    out.tempo = item.tempo;
    out.key = item.key;
    out.copies = 1;
    return out;
  }
  const auto subject = subjectOf(row);
  if (!subject.any()) return std::nullopt;
  const Source& source = *subject.source;
  CrateRow out;
  out.name = source.name;
  out.hash = source.hash;
  out.kind = source.kit ? std::nullopt : kindOf(source);
  out.heard = source.heard.has_value();
  out.stars = subject.marks.stars;
  out.missing = subject.missing;
  if (source.sound) out.duration = source.sound->duration();
  if (const auto grid = gridOf(source)) out.tempo = grid->tempo;
  out.key = keyOf(source);
  out.path = source.origin;
  out.copies = 1;
  if (source.heard) {
    out.duration = source.heard->duration;
    if (source.heard->key) out.tuning = source.heard->key->tuning;
    if (source.heard->loop) out.bars = source.heard->loop->bars;
    out.hits = int(source.heard->onsets.size());
  }
  return out;
}

Subject CrateStage::subjectOf(RowId row) {
  Subject out;
  out.row = row;
  switch (row.scope) {
  case Scope::Beat:
    for (const auto& source : project().sources)
      if (source->id == row.id) {
        out.source = source;
        out.missing = !source->sound;
        out.paths = {source->origin};
        if (!source->kit) out.marks = m_crate.marksOf(source->hash);
        out.marks.corrections = source->corrections;
        out.marks.provenance = source->provenance;
      }
    break;
  case Scope::Crate:
    if (Crate* crate = m_crate.crate())
      if (auto item = crate->item(row.id); item && *item) {
        const Crate::Item& found = **item;
        out.source = std::make_shared<Source>(found.source);
        out.picture = found.picture;
        out.marks = found.marks;
        out.marks.provenance = found.source.provenance;
        out.paths = found.paths;
        out.usedIn = found.usedIn;
        if (const auto line = crate->row(row.id); line && *line) {
          out.copies = (*line)->copies;
          out.missing = (*line)->missing;
        }
      }
    break;
  case Scope::Service:
    if (row.id > 0 && service() && std::size_t(row.id) <= service()->items().size()) {
      out.source = std::make_shared<Source>(service()->sourceOf(std::size_t(row.id - 1)));
      out.paths = {tr("simulated service").toStdString()};
      JobContext job;
      if (const auto sound = decodeFile(out.source->origin, job))
        out.picture = pictureOf(sound->sound->channel(0));
    }
    break;
  }
  return out;
}

void CrateStage::fillMap() {
  std::vector<ReachDot> dots;
  for (const RowId& id : m_model->rows()) {
    if (dots.size() >= kMostDots) break;
    const auto row = rowOf(id);
    if (!row || !row->heard || (!row->tempo && !row->key)) continue;
    dots.push_back(
        {id, QString::fromStdString(row->name), fitQuestion(*row, beatNowOf(project()))});
  }
  m_map->setDots(std::move(dots));
}

} // namespace tuvvo
