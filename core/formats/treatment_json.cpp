#include "formats/treatment_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

Json write(const Treatment& t) {
  if (t.is<treat::Unknown>() && !t.extra.empty())
    return Json::parse(t.extra.fields().front().text, nullptr, false);
  const auto& type = typeOf(t);
  Json each{{"kind", type.id}};
  for (const auto& one : type.parameters) {
    const std::string id(one.parameter.id);
    if (one.parameter.words.empty())
      each[id] = one.get(t);
    else
      each[id] = written(one.parameter, one.get(t));
  }
  if (const auto* chop = t.as<treat::Chop>(); chop && !chop->order.empty())
    each["order"] = chop->order;
  if (!t.on) each["on"] = false;
  addRest(each, t.extra);
  return each;
}

/// Kept whole: it stands where it stood, and is not heard.
Treatment unknown(const Json& json) {
  Treatment t{treat::Unknown{}};
  t.on = false;
  t.extra = Extra({{{}, json.dump(-1, ' ', false, Json::error_handler_t::replace), {}, false}});
  return t;
}

Treatment read(const Json& json, Reading& reading) {
  Fields fields(json, reading);
  const std::string kind = fields.text("kind");
  const TreatmentType* type = treatmentType(kind);
  if (!type) {
    reading.met("the treatment \"" + std::string(beginningOf(kind, 60)) + "\"");
    return unknown(json);
  }
  Treatment t{type->usual};
  for (const auto& one : type->parameters) {
    const Parameter& p = one.parameter;
    const std::string id(p.id);
    if (p.words.empty()) {
      one.set(t, fields.number(id.c_str(), p.least, p.most, p.standard));
      continue;
    }
    const std::string word = fields.text(id.c_str(), written(p, p.standard));
    const auto value = parsed(p, word);
    if (!value) { // with another meaning in one figure it is another treatment
      reading.met("the word \"" + std::string(beginningOf(word, 60)) + "\" for \"" + id + "\"");
      return unknown(json);
    }
    one.set(t, *value);
  }
  if (auto* chop = t.as<treat::Chop>())
    for (const auto& piece : fields.list("order", kMostPieces))
      if (piece.is_number_integer())
        chop->order.push_back(
            int(std::clamp<std::int64_t>(piece.get<std::int64_t>(), -1, 1 << 20)));
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
