#include "formats/treatment_json.h"

namespace tuvvo {

using namespace json_read;

Json toJson(const std::vector<Treatment>& treatments) {
  Json out = Json::array();
  for (const auto& t : treatments) {
    const auto& type = typeOf(t.kind);
    Json each{{"kind", type.id}};
    for (std::size_t i = 0; i < type.figures.size(); ++i) {
      const auto& figure = type.figures[i];
      if (figure.words.empty())
        each[figure.id] = t.figures[i];
      else
        each[figure.id] = figure.words[std::size_t(t.choice(i))];
    }
    if (!t.order.empty()) each["order"] = t.order;
    if (!t.on) each["on"] = false;
    out.push_back(std::move(each));
  }
  return out;
}

std::vector<Treatment> treatmentsFromJson(const Json& list) {
  std::vector<Treatment> out;
  for (const auto& each : list) {
    const std::string id = text(each, "kind");
    const auto kind = treatmentFromId(id);
    if (!kind) throw Bad{"\"" + id + "\" is no treatment"};
    Treatment t = treatment(*kind);
    const auto& figures = typeOf(*kind).figures;
    for (std::size_t i = 0; i < figures.size(); ++i) {
      const auto& figure = figures[i];
      if (figure.words.empty()) {
        t.figures[i] = number(each, figure.id, figure.least, figure.most, figure.standard);
        continue;
      }
      const std::string word = text(each, figure.id, figure.words[std::size_t(figure.standard)]);
      const auto at = std::find(figure.words.begin(), figure.words.end(), word);
      if (at == figure.words.end())
        throw Bad{"\"" + word + "\" is no value for \"" + figure.id + "\""};
      t.figures[i] = double(at - figure.words.begin());
    }
    for (const auto& piece : json_read::list(each, "order", kMostPieces))
      if (piece.is_number_integer())
        t.order.push_back(int(std::clamp<std::int64_t>(piece.get<std::int64_t>(), -1, 1 << 20)));
    t.on = flag(each, "on", true);
    hold(t);
    out.push_back(std::move(t));
  }
  return out;
}

} // namespace tuvvo
