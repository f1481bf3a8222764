#include "intake/plan/usual_names.hpp"

#include <algorithm>
#include <array>
#include <span>
#include <string_view>
#include <vector>

#include <unicode/bytestream.h>
#include <unicode/normalizer2.h>

#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {
namespace {

/// Names that exports use for a role, without accents and without "_no" or "code_"; the most likely first.
struct Names {
  std::string_view role;
  std::vector<std::string_view> words;
  bool may_be_numbered = false;  ///< "order" has the role, as "order_no" and "order_id" do
};
const std::array<Names, kRoles>& usual_names() {
  static const std::array<Names, kRoles> kTable = {{
      {daybook::role::kOrderId,
       {"order",      "invoice",  "receipt",    "bill",    "document",   "transaction",
        "sale",       "basket",   "bestellung", "auftrag", "beleg",      "rechnung",
        "commande",   "facture",  "pedido",     "factura", "ordine",     "fattura",
        "bestelling", "factuur",  "ordre",      "faktura", "zamowienie", "encomenda",
        "bestell",    "auftrags", "rechnungs",  "bestel",  "zamowienia"},
       true},
      {daybook::role::kOrderDate,
       {"order_date",    "date",    "invoice_date", "placed",        "ordered",     "ordered_on",
        "order_time",    "sold_on", "day",          "timestamp",     "created",     "receipt_date",
        "ordered_at",    "datum",   "bestelldatum", "auftragsdatum", "belegdatum",  "rechnungsdatum",
        "date_commande", "fecha",   "fecha_pedido", "data",          "data_ordine", "besteldatum",
        "orderdatum",    "dato"}},
      {daybook::role::kCustomerId,
       {"customer", "client", "account", "buyer", "member", "cust", "shopper", "debtor", "kunde", "kunden",
        "debitor", "cliente", "klant", "kund", "klient", "klienta"},
       true},
      {daybook::role::kProductId,
       {"product", "article", "item",    "sku",     "part",     "material", "ean",      "art",
        "stock",   "artikel", "produkt", "produit", "producto", "articulo", "prodotto", "articolo",
        "vare",    "produto", "artigo",  "towar",   "towaru",   "produktu"},
       true},
      {daybook::role::kQuantity,
       {"quantity", "qty", "pieces", "units", "pcs", "count", "number_of_pieces", "ordered_quantity", "menge",
        "anzahl", "stueck", "stuck", "quantite", "cantidad", "quantita", "aantal", "antal", "ilosc",
        "quantidade"}},
      {daybook::role::kUnitPrice, {"unit_price",    "price",
                                   "price_each",    "net_price",
                                   "sales_price",   "piece_price",
                                   "selling_price", "each",
                                   "preis",         "einzelpreis",
                                   "stueckpreis",   "stuckpreis",
                                   "prix",          "prix_unitaire",
                                   "precio",        "precio_unitario",
                                   "prezzo",        "prezzo_unitario",
                                   "prijs",         "pris",
                                   "cena",          "preco"}},
      {daybook::role::kAmount,
       {"amount", "line_total", "line_amount", "total",  "net_amount", "value",   "revenue", "turnover",
        "betrag", "umsatz",     "summe",       "gesamt", "montant",    "importe", "importo", "totale",
        "bedrag", "totaal",     "belopp",      "beløb",  "kwota",      "valor"}},
      {daybook::role::kUnitCost,
       {"unit_cost", "cost", "cost_price", "purchase_price", "buying_price", "einkaufspreis",
        "einstandspreis", "prix_achat", "precio_compra", "prezzo_acquisto", "inkoopprijs"}},
      {daybook::role::kListPrice,
       {"list_price", "catalogue_price", "retail_price", "recommended_price", "listenpreis", "katalogpreis",
        "prix_catalogue", "precio_lista", "prezzo_listino", "catalogusprijs"}},
      {daybook::role::kCurrency, {"currency", "curr", "waehrung", "wahrung", "devise", "moneda", "valuta"}},
      {daybook::role::kValidFrom,
       {"valid_from", "valid_since", "price_from", "from_date", "starts_on", "from", "since", "gueltig_ab",
        "gultig_ab", "ab", "valable_du", "desde", "dal", "geldig_vanaf"}},
      {daybook::role::kValidTo,
       {"valid_to", "valid_until", "price_to", "to_date", "ends_on", "until", "to", "gueltig_bis",
        "gultig_bis", "bis", "valable_au", "hasta", "al", "geldig_tot"}},
  }};
  return kTable;
}

constexpr std::string_view kProductLabels[] = {"product_name",
                                               "item_name",
                                               "article_name",
                                               "product_title",
                                               "product_description",
                                               "item_description",
                                               "article_description",
                                               "description",
                                               "produktname",
                                               "artikelname",
                                               "artikelbezeichnung",
                                               "produktbezeichnung",
                                               "bezeichnung",
                                               "nom_du_produit",
                                               "designation",
                                               "libelle",
                                               "nombre_producto",
                                               "nombre_del_producto",
                                               "descripcion",
                                               "nome_prodotto",
                                               "descrizione",
                                               "productnaam",
                                               "artikelnaam",
                                               "omschrijving",
                                               "produktnavn",
                                               "varenavn",
                                               "produktnamn",
                                               "benamning",
                                               "nazwa_produktu",
                                               "nome_do_produto",
                                               "descricao"};
constexpr std::string_view kCustomerLabels[] = {
    "customer_name",   "client_name",    "account_name",       "company_name",  "company",
    "kundenname",      "firma",          "firmenname",         "nom_du_client", "nom_client",
    "raison_sociale",  "nombre_cliente", "nombre_del_cliente", "razon_social",  "nome_cliente",
    "ragione_sociale", "klantnaam",      "bedrijfsnaam",       "kundenavn",     "kundnamn",
    "nazwa_klienta",   "nome_do_cliente"};

/// A name without the word for number or code before or after it: "order" of "order_no" and
/// "numero_de_order".
std::string without_number_word(const std::string& name) {
  for (const std::string_view ending : {"_id", "_no", "_nr", "_number", "_num", "_code", "_key", "_ref",
                                        "nummer", "nr", "no", "_numero", "_numer"}) {
    if (name.ends_with(ending)) return name.substr(0, name.size() - ending.size());
  }
  for (const std::string_view beginning :
       {"numero_de_", "numero_", "numer_", "num_", "no_de_", "no_", "n°_de_", "n°_", "nr_", "id_",
        "codigo_de_", "codigo_", "codice_", "code_", "kod_", "reference_", "ref_"}) {
    if (name.starts_with(beginning)) return name.substr(beginning.size());
  }
  return name;
}

/// A header in lower case and without accents: "Numéro de commande" is "numero_de_commande".
std::string plain_letters(const std::string& header) {
  UErrorCode status = U_ZERO_ERROR;
  const icu::Normalizer2* letters_and_accents = icu::Normalizer2::getNFKDInstance(status);
  std::string decomposed;
  icu::StringByteSink<std::string> sink(&decomposed);
  letters_and_accents->normalizeUTF8(
      0, icu::StringPiece(header.data(), static_cast<std::int32_t>(header.size())), sink, nullptr, status);
  std::string plain;
  for (std::size_t i = 0; i < decomposed.size(); ++i) {
    const auto is = [&](std::size_t at, unsigned lowest, unsigned highest) {
      const unsigned byte = at < decomposed.size() ? static_cast<unsigned char>(decomposed[at]) : 0;
      return byte >= lowest && byte <= highest;
    };
    // U+0300 to U+036F
    const bool is_accent =
        (is(i, 0xCC, 0xCC) && is(i + 1, 0x80, 0xBF)) || (is(i, 0xCD, 0xCD) && is(i + 1, 0x80, 0xAF));
    if (is_accent) {
      ++i;
    } else {
      plain += decomposed[i];
    }
  }
  return snake_case(expression::to_lower(plain));
}

}  // namespace

std::optional<std::size_t> name_rank(std::size_t role, const std::string& header) {
  const Names& names = usual_names().at(role);
  const std::string name = plain_letters(header);
  if (name == names.role) return 0;
  for (std::size_t i = 0; i < names.words.size(); ++i) {
    if (name == names.words[i]) return 2 * i + 2;
    if (names.may_be_numbered && name != without_number_word(name) &&
        without_number_word(name) == names.words[i])
      return 2 * i + 1;
  }
  return std::nullopt;
}

std::optional<std::size_t> label_rank(TableKind of, const std::string& header) {
  std::span<const std::string_view> names = kCustomerLabels;
  if (of == TableKind::products) names = kProductLabels;
  const auto found = std::find(names.begin(), names.end(), plain_letters(header));
  if (found == names.end()) return std::nullopt;
  return static_cast<std::size_t>(found - names.begin());
}

}  // namespace pear::intake
