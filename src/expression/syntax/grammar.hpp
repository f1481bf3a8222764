// The grammar of expressions, as rules of PEGTL: each struct is a rule of the same name in SQL's grammar, or
// close to it. Private to parse.cpp.
#pragma once

#include <tao/pegtl.hpp>

namespace pear::expression::grammar {

namespace p = tao::pegtl;

struct line_comment : p::seq<p::string<'-', '-'>, p::until<p::eolf>> {};
struct gap : p::star<p::sor<p::space, line_comment>> {};

struct name_start : p::sor<p::alpha, p::one<'_'>, p::ranges<'\x80', '\xff'>> {};
struct name_rest : p::sor<name_start, p::digit> {};

template <char... Cs>
struct word : p::seq<p::istring<Cs...>, p::not_at<name_rest>, gap> {};
template <char... Cs>
struct sign : p::seq<p::string<Cs...>, gap> {};

struct reserved : p::seq<p::sor<p::istring<'a', 'n', 'd'>, p::istring<'o', 'r'>, p::istring<'n', 'o', 't'>,
                                p::istring<'i', 'n'>, p::istring<'i', 's'>, p::istring<'l', 'i', 'k', 'e'>,
                                p::istring<'b', 'e', 't', 'w', 'e', 'e', 'n'>, p::istring<'c', 'a', 's', 'e'>,
                                p::istring<'w', 'h', 'e', 'n'>, p::istring<'t', 'h', 'e', 'n'>,
                                p::istring<'e', 'l', 's', 'e'>, p::istring<'e', 'n', 'd'>,
                                p::istring<'n', 'u', 'l', 'l'>, p::istring<'t', 'r', 'u', 'e'>,
                                p::istring<'f', 'a', 'l', 's', 'e'>, p::istring<'f', 'r', 'o', 'm'>>,
                         p::not_at<name_rest>> {};

struct disjunction;

struct text_body : p::star<p::sor<p::string<'\'', '\''>, p::not_one<'\''>>> {};
struct quoted_text : p::seq<p::one<'\''>, text_body, p::one<'\''>, gap> {};
struct text_literal : quoted_text {};
struct digits : p::plus<p::digit> {};
struct number_literal
    : p::seq<p::sor<p::seq<digits, p::opt<p::one<'.'>, p::star<p::digit>>>, p::seq<p::one<'.'>, digits>>,
             p::not_at<name_rest>, gap> {};
struct date_literal : p::seq<word<'d', 'a', 't', 'e'>, quoted_text> {};
struct time_literal : p::seq<word<'t', 'i', 'm', 'e'>, quoted_text> {};
struct days_literal : p::seq<word<'i', 'n', 't', 'e', 'r', 'v', 'a', 'l'>, quoted_text, word<'d', 'a', 'y'>> {
};
struct null_literal : word<'n', 'u', 'l', 'l'> {};
struct true_literal : word<'t', 'r', 'u', 'e'> {};
struct false_literal : word<'f', 'a', 'l', 's', 'e'> {};

struct plain_name : p::seq<p::not_at<reserved>, name_start, p::star<name_rest>> {};
struct column_name : p::seq<plain_name, gap> {};
struct quoted_body : p::plus<p::sor<p::string<'"', '"'>, p::not_one<'"'>>> {};
struct quoted_name : p::seq<p::one<'"'>, quoted_body, p::one<'"'>, gap> {};

struct extract_field : p::plus<p::alpha> {};
struct extract : p::seq<word<'e', 'x', 't', 'r', 'a', 'c', 't'>, sign<'('>, extract_field, gap,
                        word<'f', 'r', 'o', 'm'>, disjunction, sign<')'>> {};
struct substring : p::seq<word<'s', 'u', 'b', 's', 't', 'r', 'i', 'n', 'g'>, sign<'('>, disjunction,
                          p::sor<word<'f', 'r', 'o', 'm'>, sign<','>>, disjunction,
                          p::opt<p::sor<word<'f', 'o', 'r'>, sign<','>>, disjunction>, sign<')'>> {};
struct type_name : p::plus<name_rest> {};
struct cast
    : p::seq<word<'c', 'a', 's', 't'>, sign<'('>, disjunction, word<'a', 's'>, type_name, gap, sign<')'>> {};
// Names of functions with a grammar of their own: if a call of one does not parse, it is not tried as another
// function.
struct own_grammar
    : p::seq<p::sor<p::istring<'e', 'x', 't', 'r', 'a', 'c', 't'>,
                    p::istring<'s', 'u', 'b', 's', 't', 'r', 'i', 'n', 'g'>, p::istring<'c', 'a', 's', 't'>>,
             p::not_at<name_rest>> {};
struct function_name : p::seq<p::not_at<own_grammar>, plain_name> {};
struct star : sign<'*'> {};
struct distinct : word<'d', 'i', 's', 't', 'i', 'n', 'c', 't'> {};
struct filter_part : p::seq<word<'f', 'i', 'l', 't', 'e', 'r'>, sign<'('>, word<'w', 'h', 'e', 'r', 'e'>,
                            disjunction, sign<')'>> {};
struct sort_key;
struct order_part : p::seq<word<'o', 'r', 'd', 'e', 'r'>, word<'b', 'y'>, p::list<sort_key, sign<','>>> {};
struct within_group : p::seq<word<'w', 'i', 't', 'h', 'i', 'n'>, word<'g', 'r', 'o', 'u', 'p'>, sign<'('>,
                             order_part, sign<')'>> {};
struct over_part : p::seq<word<'o', 'v', 'e', 'r'>, sign<'('>,
                          p::opt<word<'p', 'a', 'r', 't', 'i', 't', 'i', 'o', 'n'>, word<'b', 'y'>,
                                 p::list<disjunction, sign<','>>>,
                          p::opt<order_part>, sign<')'>> {};
struct function_call : p::seq<function_name, gap, sign<'('>,
                              p::opt<p::sor<star, p::seq<p::opt<distinct>, p::list<disjunction, sign<','>>>>>,
                              sign<')'>, p::opt<within_group>, p::opt<filter_part>, p::opt<over_part>> {};

struct else_part : p::seq<word<'e', 'l', 's', 'e'>, disjunction> {};
struct when_part : p::seq<word<'w', 'h', 'e', 'n'>, disjunction, word<'t', 'h', 'e', 'n'>, disjunction> {};
struct simple_case : p::seq<word<'c', 'a', 's', 'e'>, disjunction, p::plus<when_part>, p::opt<else_part>,
                            word<'e', 'n', 'd'>> {};
struct searched_case
    : p::seq<word<'c', 'a', 's', 'e'>, p::plus<when_part>, p::opt<else_part>, word<'e', 'n', 'd'>> {};

struct primary : p::sor<number_literal, text_literal, date_literal, time_literal, days_literal, null_literal,
                        true_literal, false_literal, searched_case, simple_case, extract, substring, cast,
                        function_call, column_name, quoted_name, p::seq<sign<'('>, disjunction, sign<')'>>> {
};

struct minus : p::seq<p::one<'-'>, p::not_at<p::one<'-'>>, gap> {};
struct negative : p::seq<minus, primary> {};
struct factor : p::sor<negative, p::seq<sign<'+'>, primary>, primary> {};
struct times : sign<'*'> {};
struct divided : sign<'/'> {};
struct term : p::list<factor, p::sor<times, divided>> {};
struct plus_sign : sign<'+'> {};
struct concat_sign : sign<'|', '|'> {};
struct sum : p::list<term, p::sor<plus_sign, minus, concat_sign>> {};

struct comparison_sign
    : p::seq<p::sor<p::string<'<', '>'>, p::string<'<', '='>, p::string<'>', '='>, p::one<'=', '<', '>'>>,
             gap> {};
struct negated : word<'n', 'o', 't'> {};
struct in_part
    : p::seq<p::opt<negated>, word<'i', 'n'>, sign<'('>, p::list<disjunction, sign<','>>, sign<')'>> {};
struct between_part
    : p::seq<p::opt<negated>, word<'b', 'e', 't', 'w', 'e', 'e', 'n'>, sum, word<'a', 'n', 'd'>, sum> {};
struct like_part : p::seq<p::opt<negated>, word<'l', 'i', 'k', 'e'>, sum> {};
struct null_part : p::seq<word<'i', 's'>, p::opt<negated>, word<'n', 'u', 'l', 'l'>> {};
struct comparison : p::seq<comparison_sign, sum> {};
struct predicate : p::seq<sum, p::opt<p::sor<comparison, in_part, between_part, like_part, null_part>>> {};
struct negation : p::seq<negated, p::sor<negation, predicate>> {};
struct conjunction : p::list<p::sor<negation, predicate>, word<'a', 'n', 'd'>> {};
struct disjunction : p::list<conjunction, word<'o', 'r'>> {};
struct expression : p::seq<gap, disjunction, p::eof> {};

struct alias : p::seq<word<'a', 's'>, p::sor<column_name, quoted_name>> {};
struct list_item : p::seq<disjunction, p::opt<alias>> {};
struct expression_list : p::seq<gap, p::list<list_item, sign<','>>, p::eof> {};

struct descending : word<'d', 'e', 's', 'c'> {};
struct sort_key : p::seq<disjunction, p::opt<p::sor<descending, word<'a', 's', 'c'>>>> {};
struct sort_list : p::seq<gap, p::list<sort_key, sign<','>>, p::eof> {};

}  // namespace pear::expression::grammar
