#include "formats/treatment_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

Json write(const Treatment& t) {
  if (t.kind == TreatmentKind::Unknown && !t.extra.empty())
    return Json::parse(t.extra.fields().front().text, nullptr, false);
  const auto& type = typeOf(t.kind);
  Json each{{"kind", type.id}};
  for (std::size_t i = 0; i < type.figures.size(); ++i) {
    const auto& figure = type.figures[i];
    if (figure.words.empty())
      each[figure.id] = t.figures[i];
    else
      each[figure.id] = figure.words[placeIn(t.figures[i] + 0.5, figure.words.size())];
  }
  if (!t.order.empty()) each["order"] = t.order;
  if (!t.on) each["on"] = false;
  addRest(each, t.extra);
  return each;
}

/// Kept whole: it stands where it stood, and is not heard.
Treatment unknown(const Json& json) {
  Treatment t;
  t.kind = TreatmentKind::Unknown;
  t.on = false;
  t.extra = Extra({{{}, json.dump(-1, ' ', false, Json::error_handler_t::replace), {}, false}});
  return t;
}

Treatment read(const Json& json, Reading& reading) {
  Fields fields(json, reading);
  const std::string id = fields.text("kind");
  const auto kind = treatmentFromId(id);
  if (!kind) {
    reading.met("the treatment \"" + std::string(beginningOf(id, 60)) + "\"");
    return unknown(json);
  }
  Treatment t = treatment(*kind);
  const auto& figures = typeOf(*kind).figures;
  for (std::size_t i = 0; i < figures.size(); ++i) {
    const auto& figure = figures[i];
    if (figure.words.empty()) {
      t.figures[i] = fields.number(figure.id, figure.least, figure.most, figure.standard);
      continue;
    }
    const std::string word =
        fields.text(figure.id, figure.words[placeIn(figure.standard, figure.words.size())]);
    const auto at = std::find(figure.words.begin(), figure.words.end(), word);
    if (at == figure.words.end()) { // with another meaning in one figure it is another treatment
      reading.met("the word \"" + std::string(beginningOf(word, 60)) + "\" for \"" + figure.id +
                  "\"");
      return unknown(json);
    }
    t.figures[i] = double(at - figure.words.begin());
  }
  for (const auto& piece : fields.list("order", kMostPieces))
    if (piece.is_number_integer())
      t.order.push_back(int(std::clamp<std::int64_t>(piece.get<std::int64_t>(), -1, 1 << 20)));
  t.on = fields.flag("on", true);
  clamp(t);
  t.extra = fields.rest([&] { return write(t); });
  return t;
}

} // namespace

Json toJson(const std::vector<Treatment>& treatments) {
  Json out = Json::array();
  for (const auto& t : treatments) out.push_back(write(t));
  return out;
}

void readTreatments(Fields& fields, std::vector<Treatment>& out) {
  fields.entries("treatments", kMostTreatments, [&](const Json& each) {
    if (!each.is_object()) throw Bad{"a treatment that is none"};
    out.push_back(read(each, fields.reading()));
  });
}

} // namespace tuvvo
