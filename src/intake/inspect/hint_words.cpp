#include "intake/inspect/hint_words.hpp"

#include <absl/container/flat_hash_map.h>

#include "expression/evaluate/functions.hpp"

namespace pear::intake {
namespace {

const absl::flat_hash_map<std::string_view, Hint>& hint_words() {
  static const absl::flat_hash_map<std::string_view, Hint> kWords = [] {
    absl::flat_hash_map<std::string_view, Hint> words;
    for (const std::string_view word :
         {"return",  "returned",   "returns",    "refund", "creditnote", "gutschrift",
          "retoure", "rückgabe",   "storno",     "avoir",  "retour",     "remboursement",
          "abono",   "devolución", "devolucion", "reso",   "rimborso",   "creditnota",
          "retur",   "kreditnota", "devolução",  "zwrot",  "korekta"})
      words[word] = Hint::returned;
    for (const std::string_view word :
         {"freight",      "shipping", "postage",    "delivery",  "deposit",       "handling",
          "surcharge",    "voucher",  "giftcard",   "fracht",    "versand",       "versandkosten",
          "porto",        "pfand",    "gutschein",  "livraison", "consigne",      "envío",
          "envio",        "portes",   "spedizione", "trasporto", "verzendkosten", "verzending",
          "statiegeld",   "frakt",    "fragt",      "frete",     "dostawa",       "kaucja",
          "freightcharge"})
      words[word] = Hint::fee;
    for (const std::string_view word :
         {"test", "testing", "testaccount", "testkunde", "dummy", "internal", "intern", "interne", "staff",
          "employee", "mitarbeiter", "demo", "prueba", "prova"})
      words[word] = Hint::test;
    return words;
  }();
  return kWords;
}

bool is_separator(char c) {
  const bool is_letter = (c >= 'a' && c <= 'z') || static_cast<unsigned char>(c) >= 0x80;
  return !is_letter;
}

}  // namespace

std::optional<Hint> hint_in(std::string_view text) {
  constexpr std::size_t kLongest = 80;
  if (text.size() > kLongest) return std::nullopt;
  const std::string folded = expression::to_lower(text);
  // A credit is a return, but a credit card is not.
  if (folded == "credit" || folded.starts_with("credit note") || folded.starts_with("credit memo"))
    return Hint::returned;
  for (std::size_t begin = 0; begin < folded.size();) {
    std::size_t end = begin;
    while (end < folded.size() && !is_separator(folded[end])) ++end;
    const auto found = hint_words().find(std::string_view(folded).substr(begin, end - begin));
    if (found != hint_words().end()) return found->second;
    begin = end + 1;
  }
  return std::nullopt;
}

}  // namespace pear::intake
