#include "formats/migrations.h"

namespace tuvvo {

int migrate(json_read::Json& file, std::span<const Migration> steps) {
  constexpr std::int64_t kNewest = 1'000'000;
  std::int64_t schema = 1;
  if (const auto said = file.find("schema"); said != file.end() && said->is_number_integer())
    schema = std::clamp<std::int64_t>(said->get<std::int64_t>(), 1, kNewest);
  for (auto step = std::size_t(schema - 1); step < steps.size(); ++step) steps[step](file);
  return int(schema);
}

} // namespace tuvvo
