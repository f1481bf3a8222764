// The statements for databases that are reached by ODBC are those of the SQL standard.
#include <cctype>
#include <cstdlib>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include <absl/strings/str_split.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "pushdown/sql_expression.hpp"
#include "support/made_up_warehouse.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The reserved words of ISO/IEC 9075-2:2016.
constexpr const char* kReserved =
    "ABS ACOS ALL ALLOCATE ALTER AND ANY ARE ARRAY ARRAY_AGG ARRAY_MAX_CARDINALITY AS ASENSITIVE ASIN "
    "ASYMMETRIC AT ATAN ATOMIC AUTHORIZATION AVG BEGIN BEGIN_FRAME BEGIN_PARTITION BETWEEN BIGINT "
    "BINARY BLOB BOOLEAN BOTH BY CALL CALLED CARDINALITY CASCADED CASE CAST CEIL CEILING CHAR "
    "CHAR_LENGTH CHARACTER CHARACTER_LENGTH CHECK CLASSIFIER CLOB CLOSE COALESCE COLLATE COLLECT "
    "COLUMN COMMIT CONDITION CONNECT CONSTRAINT CONTAINS CONVERT COPY CORR CORRESPONDING COS COSH "
    "COUNT COVAR_POP COVAR_SAMP CREATE CROSS CUBE CUME_DIST CURRENT CURRENT_CATALOG CURRENT_DATE "
    "CURRENT_PATH CURRENT_ROLE CURRENT_ROW CURRENT_SCHEMA CURRENT_TIME CURRENT_TIMESTAMP CURRENT_USER "
    "CURSOR CYCLE DATE DAY DEALLOCATE DEC DECFLOAT DECIMAL DECLARE DEFAULT DEFINE DELETE DENSE_RANK "
    "DEREF DESCRIBE DETERMINISTIC DISCONNECT DISTINCT DOUBLE DROP DYNAMIC EACH ELEMENT ELSE EMPTY END "
    "END_FRAME END_PARTITION EQUALS ESCAPE EVERY EXCEPT EXEC EXECUTE EXISTS EXP EXTERNAL EXTRACT "
    "FALSE FETCH FILTER FIRST_VALUE FLOAT FLOOR FOR FOREIGN FRAME_ROW FREE FROM FULL FUNCTION FUSION "
    "GET GLOBAL GRANT GROUP GROUPING GROUPS HAVING HOLD HOUR IDENTITY IN INDICATOR INITIAL INNER "
    "INOUT INSENSITIVE INSERT INT INTEGER INTERSECT INTERSECTION INTERVAL INTO IS JOIN LAG LANGUAGE "
    "LARGE LAST_VALUE LATERAL LEAD LEADING LEFT LIKE LIKE_REGEX LISTAGG LN LOCAL LOCALTIME "
    "LOCALTIMESTAMP LOG LOG10 LOWER MATCH MATCH_NUMBER MATCH_RECOGNIZE MATCHES MAX MEMBER MERGE "
    "METHOD MIN MINUTE MOD MODIFIES MODULE MONTH MULTISET NATIONAL NATURAL NCHAR NCLOB NEW NO NONE "
    "NORMALIZE NOT NTH_VALUE NTILE NULL NULLIF NUMERIC OCCURRENCES_REGEX OCTET_LENGTH OF OFFSET OLD "
    "OMIT ON ONE ONLY OPEN OR ORDER OUT OUTER OVER OVERLAPS OVERLAY PARAMETER PARTITION PATTERN PER "
    "PERCENT PERCENT_RANK PERCENTILE_CONT PERCENTILE_DISC PERIOD PORTION POSITION POSITION_REGEX "
    "POWER PRECEDES PRECISION PREPARE PRIMARY PROCEDURE PTF RANGE RANK READS REAL RECURSIVE REF "
    "REFERENCES REFERENCING RELEASE RESULT RETURN RETURNS REVOKE RIGHT ROLLBACK ROLLUP ROW ROW_NUMBER "
    "ROWS RUNNING SAVEPOINT SCOPE SCROLL SEARCH SECOND SEEK SELECT SENSITIVE SESSION_USER SET SHOW "
    "SIMILAR SIN SINH SKIP SMALLINT SOME SPECIFIC SPECIFICTYPE SQL SQLEXCEPTION SQLSTATE SQLWARNING "
    "SQRT START STATIC STDDEV_POP STDDEV_SAMP SUBMULTISET SUBSET SUBSTRING SUBSTRING_REGEX SUCCEEDS "
    "SUM SYMMETRIC SYSTEM SYSTEM_TIME SYSTEM_USER TABLE TABLESAMPLE TAN TANH THEN TIME TIMESTAMP "
    "TIMEZONE_HOUR TIMEZONE_MINUTE TO TRAILING TRANSLATE TRANSLATE_REGEX TRANSLATION TREAT TRIGGER "
    "TRIM TRIM_ARRAY TRUE TRUNCATE UESCAPE UNION UNIQUE UNKNOWN UNNEST UPDATE UPPER USER USING VALUE "
    "VALUES VALUE_OF VAR_POP VAR_SAMP VARBINARY VARCHAR VARYING VERSIONING WHEN WHENEVER WHERE "
    "WIDTH_BUCKET WINDOW WITH WITHIN WITHOUT YEAR ";

struct Words {
  std::set<std::string> bare, quoted;
};

/// Words outside of texts; those in double quotes separately.
Words words_of(const std::string& sql) {
  Words words;
  for (std::size_t i = 0; i < sql.size(); ++i) {
    if (sql[i] == '\'' || sql[i] == '"') {
      const std::size_t end = sql.find(sql[i], i + 1);
      if (sql[i] == '"') words.quoted.insert(sql.substr(i + 1, end - i - 1));
      i = end;
    } else if (std::isalpha(static_cast<unsigned char>(sql[i])) != 0) {
      std::size_t end = i;
      while (end < sql.size() && (std::isalnum(static_cast<unsigned char>(sql[end])) != 0 || sql[end] == '_'))
        ++end;
      words.bare.insert(sql.substr(i, end - i));
      i = end - 1;
    }
  }
  return words;
}

const std::vector<std::pair<std::string, analysis::OptionValues>>& questions() {
  static const std::vector<std::pair<std::string, analysis::OptionValues>> kQuestions = {
      {"frequency", {{"list", "true"}, {"by", "region"}}},
      {"frequency", {{"within", "30"}, {"count", "sum(amount)"}}},
      {"first", {{"per", "category"}, {"at-least", "1"}}},
      {"retention", {{"calendar", "true"}, {"period", "week"}}},
      {"together", {{"product", "P1"}, {"support", "1 baskets"}}},
      {"distinct", {{"list", "true"}, {"per", "week"}}},
      {"crosstab", {{"down", "month, weekday"}, {"across", "floor(amount), lower(note)"}, {"keep", "1"}}},
      {"crosstab", {{"down", "customer_orders"}, {"count", "median(amount), avg(credit_limit)"}}},
      {"concentration", {{"by", "quarter"}, {"where", "sum(amount) over (partition by region) > 5"}}},
      {"prices", {{"below", "90%"}, {"against", "all"}}},
      {"sequence", {{"support", "1 customers"}, {"max-gap", "90"}}}};
  return kQuestions;
}

/// Keywords are in capitals and names are not. A name is never a word of the standard, and has quotes
/// everywhere or nowhere, so that it does not matter to which case a system folds names: but for columns of
/// the shop's own table, which have ours as their aliases.
RC_GTEST_PROP(StandardStatements, HaveOnlyItsWords, ()) {
  const char *server = std::getenv("PEAR_TEST_POSTGRESQL"), *odbc = std::getenv("PEAR_TEST_ODBC");
  if (server == nullptr || odbc == nullptr) RC_SUCCEED("no database is reached by ODBC");
  const std::set<std::string> reserved = absl::StrSplit(kReserved, ' ', absl::SkipEmpty());
  const std::set<std::string> also = {"FIRST", "DESC", "ASC"};  // words of the standard that are not reserved
  const MadeUpWarehouse warehouse(random_daybook(), {server, {}, odbc});
  const auto& [question, options] =
      questions()[static_cast<std::size_t>(pick(0, static_cast<int>(questions().size()) - 1))];
  (void)warehouse.try_to_ask(question, options);
  for (const std::string& statement : warehouse.statements()) {
    const Words words = words_of(statement);
    for (const std::string& word : words.bare) {
      const bool is_keyword = std::isupper(static_cast<unsigned char>(word.front())) != 0;
      std::string capitals = word;
      for (char& letter : capitals)
        letter = static_cast<char>(std::toupper(static_cast<unsigned char>(letter)));
      const bool is_known =
          is_keyword ? reserved.contains(word) || also.contains(word) : !reserved.contains(capitals);
      if (!is_known || (words.quoted.contains(word) && pushdown::column_in_sql(word) != word))
        RC_FAIL(word + " in " + statement);
    }
  }
}

}  // namespace
}  // namespace pear::test
