#include "formats/migrations.h"

namespace tuvvo {

using json_read::Json;

int migrate(Json& file, std::span<const Migration> steps) {
  constexpr std::int64_t kNewest = 1'000'000;
  std::int64_t schema = 1;
  if (const auto said = file.find("schema"); said != file.end() && said->is_number_integer())
    schema = std::clamp<std::int64_t>(said->get<std::int64_t>(), 1, kNewest);
  for (auto step = std::size_t(schema - 1); step < steps.size(); ++step) steps[step](file);
  return int(schema);
}

void renameField(Json& object, std::string_view from, std::string_view to) {
  if (!object.is_object() || !object.contains(from) || object.contains(to)) return;
  Json renamed = Json::object();
  auto& fields = renamed.get_ref<Json::object_t&>();
  fields.reserve(object.size());
  for (auto& [name, value] : object.get_ref<Json::object_t&>())
    fields.emplace_back(name == from ? std::string(to) : name, std::move(value));
  object = std::move(renamed);
}

void eachIn(Json& object, std::string_view list, const std::function<void(Json&)>& act) {
  if (!object.is_object()) return;
  const auto found = object.find(list);
  if (found == object.end() || !found->is_array()) return;
  for (auto& each : *found)
    if (each.is_object()) act(each);
}

void inside(Json& object, std::string_view name, const std::function<void(Json&)>& act) {
  if (!object.is_object()) return;
  if (const auto found = object.find(name); found != object.end() && found->is_object())
    act(*found);
}

void provenanceFrom1(Json& provenance) { renameField(provenance, "permission", "recording"); }

} // namespace tuvvo
