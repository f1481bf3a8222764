// Workbooks made of the XML that a test gives.
#pragma once

#include <string>
#include <utility>
#include <vector>
#include <zip.h>

#include <gtest/gtest.h>

#include "support/temporary_folder.hpp"

namespace pear::test {

using ZipParts = std::vector<std::pair<std::string, std::string>>;  ///< name and bytes

/// Returns the path of a new archive in the folder.
inline std::string write_zip(const TemporaryFolder& folder, const std::string& name, const ZipParts& parts) {
  std::string path = folder / name;
  int fault = 0;
  zip* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &fault);
  EXPECT_NE(archive, nullptr);
  for (const auto& [part, bytes] : parts)
    zip_file_add(archive, part.c_str(), zip_source_buffer(archive, bytes.data(), bytes.size(), 0), 0);
  EXPECT_EQ(zip_close(archive), 0);
  return path;
}

/// The XML around the cells of an .xlsx file. Its styles are 0: a number, 1: a date, 2: a time, 3: a number
/// with a unit.
struct XlsxXml {
  std::string rows;      ///< what is in <sheetData>
  std::string strings;   ///< what is in <sst>; no such part if it is empty
  std::string workbook;  ///< attributes of <workbookPr>
  std::string prefix;    ///< "x:" for the sheet's elements; empty for none
  std::string kind = "worksheet";
};

inline std::string write_xlsx(const TemporaryFolder& folder, const XlsxXml& xml) {
  const std::string type = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/";
  const auto relationship = [&](const std::string& id, const std::string& kind, const std::string& target) {
    return "<Relationship Id=\"" + id + "\" Type=\"" + type + kind + "\" Target=\"" + target + "\"/>";
  };
  const std::string& p = xml.prefix;
  ZipParts parts = {
      {"_rels/.rels",
       "<Relationships>" + relationship("r1", "officeDocument", "xl/workbook.xml") + "</Relationships>"},
      {"xl/workbook.xml", "<workbook><workbookPr " + xml.workbook +
                              "/><sheets><sheet name=\"Sales\" sheetId=\"1\" "
                              "r:id=\"r1\"/></sheets></workbook>"},
      {"xl/_rels/workbook.xml.rels",
       "<Relationships>" + relationship("r1", xml.kind, "/xl/sheet.xml") +
           relationship("r2", "styles", "../xl/styles.xml") +
           (xml.strings.empty() ? "" : relationship("r3", "sharedStrings", "texts.xml")) +
           "</Relationships>"},
      {"xl/styles.xml",
       "<styleSheet><numFmts><numFmt numFmtId=\"170\" formatCode=\"0 &quot;days&quot;\"/></numFmts>"
       "<cellXfs><xf numFmtId=\"0\"/><xf numFmtId=\"14\"/><xf numFmtId=\"21\"/><xf numFmtId=\"170\"/>"
       "</cellXfs></styleSheet>"},
      {"xl/sheet.xml",
       "<" + p + "worksheet><" + p + "sheetData>" + xml.rows + "</" + p + "sheetData></" + p + "worksheet>"}};
  if (!xml.strings.empty()) parts.emplace_back("xl/texts.xml", "<sst>" + xml.strings + "</sst>");
  return write_zip(folder, "made.xlsx", parts);
}

/// `tables` is what is in <office:spreadsheet>.
inline std::string write_ods(const TemporaryFolder& folder, const std::string& tables) {
  return write_zip(folder, "made.ods",
                   {{"mimetype", "application/vnd.oasis.opendocument.spreadsheet"},
                    {"content.xml", "<office:document-content><office:body><office:spreadsheet>" + tables +
                                        "</office:spreadsheet></office:body></office:document-content>"}});
}

}  // namespace pear::test
