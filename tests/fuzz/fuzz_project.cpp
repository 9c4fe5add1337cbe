// Projects: read, written, read again. What was kept once is kept for good.
#include "formats/project_json.h"
#include "fuzz.h"
#include "play/score.h"
#include "song/timeline.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const auto read = projectFromText(fuzz::textOf(bytes, count), "input");
  if (!read) return 0;
  const std::string once = projectToText(read->project, read->revision);
  const auto again = projectFromText(once, "written");
  fuzz::mustHold(again.ok(), "what was written can be read");
  fuzz::mustHold(projectToText(again->project, again->revision) == once,
                 "what was read is written the same");
  fuzz::mustHold(revisionIn(once) == read->revision, "the revision is found");
  if (read->project.patterns.size() <= 4 && timelineOf(read->project).bars <= 64)
    (void)compileSong(read->project);
  return 0;
}
