// The template of the report page (mustache), with its style and script.
#pragma once

#include <string_view>

namespace pear::study {

/// No line break follows the end of a section, because the library keeps it even if the section is left out.
/// The page is self-contained: browsers load nothing else. `style`, `script`, ids, links, drawings and
/// Markdown are HTML already; everything else is text.
inline constexpr std::string_view kReportTemplate = R"html(<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:">
<link rel="icon" href="data:,">
<title>{{title}}</title>
<style>{{{style}}}</style>
</head>
<body>
<header><h1>{{title}}</h1>
<p class="soft">{{about}}</p>
{{{introduction}}}</header>
{{#has_findings}}<aside aria-label="What matters most"><h2>What matters most in money</h2><ol>
{{#findings}}<li><a href="#{{{link}}}"><span>{{sentence}}</span><b>{{amount}}</b></a></li>
{{/findings}}</ol></aside>
{{/has_findings}}<nav aria-label="Contents"><ol>
{{#sections}}<li><a href="#{{{id}}}"><b>{{title}}</b> <span>{{summary}}</span></a></li>
{{/sections}}<li><a href="#glossary"><b>Glossary</b> <span>The terms of this report</span></a></li></ol></nav>
<main>
{{#sections}}<section id="{{{id}}}"{{#failed}} class="failed"{{/failed}}>
<h2>{{title}}</h2>
{{#failed}}<p class="finding">This question could not be answered: {{reason}}</p>
{{/failed}}{{^failed}}{{#headline}}<p class="finding">{{.}}</p>
{{/headline}}{{#comment}}{{{.}}}
{{/comment}}{{#figures}}<figure>{{{.}}}</figure>
{{/figures}}<p class="soft">Population: {{population}}. Selection: {{selection}}.</p>
{{#notes}}<p class="soft">{{.}}</p>
{{/notes}}{{#tables}}{{#folded}}<details><summary>{{title}}</summary>{{/folded}}<h3>{{title}}</h3><p class="soft">{{description}}{{#files}} <a href="{{{link}}}">{{name}}</a>{{/files}}</p>
{{{rows}}}{{#folded}}</details>
{{/folded}}{{/tables}}<details><summary>How this was computed</summary><dl>
{{#trail}}<dt>{{term}}</dt><dd>{{meaning}}</dd>
{{/trail}}</dl></details>
{{/failed}}</section>
{{/sections}}<section id="glossary"><h2>Glossary</h2><details><summary>The terms of this report</summary>
{{{glossary}}}</details></section>
</main>
<footer class="soft">Made by Pear Thread from {{file}}. The files next to this page contain the complete tables; datapackage.json describes their columns and how each was computed.</footer>
<script>{{{script}}}</script>
</body>
</html>
)html";

inline constexpr std::string_view kReportStyle = R"css(
:root{--ground:#fff;--card:#fff;--ink:#1d2b36;--soft:#5b6770;--line:#d9dfdc;--mist:#e7efe9;--pine:#2f5d50;--ochre:#9a5f12;--plum:#7a3b5e}
@media (prefers-color-scheme:dark){:root{--ground:#15201d;--card:#1c2926;--ink:#e6ece8;--soft:#a9b6b0;--line:#34443f;--mist:#22342e;--pine:#9cc4b2;--ochre:#e0a95c;--plum:#d79bbb}}
*{box-sizing:border-box}
html{-webkit-text-size-adjust:100%}
body{margin:0;background:var(--ground);color:var(--ink);font:16px/1.5 Lato,"Segoe UI","Helvetica Neue",Arial,sans-serif}
main,header,nav,footer{max-width:1120px;margin:0 auto;padding:0 24px}
header{padding-top:36px}
h1{font-size:30px;line-height:1.2;margin:0 0 6px;overflow-wrap:anywhere}
h2{font-size:22px;line-height:1.3;margin:0 0 4px;overflow-wrap:anywhere}
h3{font-size:16px;margin:22px 0 2px}
a{color:var(--pine)}
.soft{color:var(--soft);font-size:14px;overflow-wrap:anywhere}
aside{max-width:1072px;margin:20px auto;padding:14px 24px;background:var(--mist);border-radius:6px}
aside h2{font-size:18px}
aside ol{margin:6px 0;padding-left:22px}
aside a{display:grid;grid-template-columns:1fr auto;gap:4px 24px;padding:5px 0;text-decoration:none;color:var(--ink)}
aside b{white-space:nowrap}
nav ol{list-style:none;padding:0;margin:20px 0;border-top:1px solid var(--line)}
nav li{border-bottom:1px solid var(--line)}
nav a{display:grid;grid-template-columns:220px 1fr;gap:4px 20px;padding:9px 0;text-decoration:none}
nav a b{font-weight:600}
nav a span{color:var(--ink);overflow-wrap:anywhere}
section{border-top:3px solid var(--pine);padding:18px 0 30px;margin-top:26px}
.finding{font-size:18px;margin:8px 0;overflow-wrap:anywhere}
.finding:first-of-type{font-weight:600}
figure{margin:18px 0;overflow-x:auto}
figure svg{display:block;width:100%;max-width:920px;min-width:700px;height:auto;background:#fff;border-radius:4px}
.rows{overflow-x:auto;margin:8px 0}
table{border-collapse:collapse;font-size:14px;font-variant-numeric:tabular-nums}
th,td{padding:5px 12px 5px 0;text-align:left;vertical-align:top;border-bottom:1px solid var(--line);max-width:340px;overflow-wrap:anywhere}
th{color:var(--soft);font-weight:600;white-space:nowrap;border-bottom:2px solid var(--line)}
td.n,th.n{text-align:right;white-space:nowrap;padding-left:12px}
tr.total td{font-weight:600;border-top:2px solid var(--line)}
tr.faint td{color:var(--soft)}
th button{all:unset;cursor:pointer}
th button:focus-visible{outline:2px solid var(--ochre)}
th[aria-sort=ascending] button::after{content:" ▲"}
th[aria-sort=descending] button::after{content:" ▼"}
details{margin:10px 0}
summary{cursor:pointer;color:var(--pine);font-size:14px}
dl{display:grid;grid-template-columns:180px 1fr;gap:4px 16px;font-size:14px;margin:10px 0}
dt{color:var(--soft)}
dd{margin:0;overflow-wrap:anywhere}
.failed{border-color:var(--plum)}
.failed .finding{color:var(--plum)}
footer{padding-top:10px;padding-bottom:40px}
@media (max-width:640px){main,header,nav,footer{padding-left:14px;padding-right:14px}nav a{grid-template-columns:1fr}dl{grid-template-columns:1fr}dd{margin-bottom:6px}h1{font-size:25px}}
@media print{@page{size:A4;margin:16mm 14mm}:root{--ground:#fff;--card:#fff;--ink:#000;--soft:#444;--line:#bbb;--mist:#eee;--pine:#2f5d50;--ochre:#9a5f12;--plum:#7a3b5e}body{font-size:10.5pt}main,header,nav,footer{max-width:none;padding:0}section{break-inside:auto}figure,tr,.finding{break-inside:avoid}h2,h3{break-after:avoid}figure,.rows{overflow:visible}figure svg{min-width:0;max-height:120mm;width:auto;max-width:100%}table{font-size:8pt}th,td{padding-right:6px}details:not([open])>*:not(summary){display:none}summary{display:none}}
)css";

inline constexpr std::string_view kReportScript = R"js(
for(const table of document.querySelectorAll('table')){
  const body=table.tBodies[0],heads=[...table.tHead.rows[0].cells];
  heads.forEach((head,at)=>{
    const button=document.createElement('button');
    button.type='button';button.title='Sort by this column';
    button.append(...head.childNodes);head.append(button);
    button.addEventListener('click',()=>{
      const down=head.classList.contains('n')?head.getAttribute('aria-sort')!=='descending':head.getAttribute('aria-sort')==='ascending';
      heads.forEach(each=>each.removeAttribute('aria-sort'));
      head.setAttribute('aria-sort',down?'descending':'ascending');
      const rows=[...body.rows].filter(row=>!row.classList.contains('total')),last=[...body.rows].filter(row=>row.classList.contains('total'));
      const value=row=>row.cells[at].dataset.v;
      rows.sort((a,b)=>{
        const x=value(a),y=value(b);
        if(x===undefined||y===undefined||x===''||y==='')return (x===''?1:0)-(y===''?1:0)||a.cells[at].textContent.localeCompare(b.cells[at].textContent,undefined,{numeric:true})*(down?-1:1);
        return (Number(x)-Number(y))*(down?-1:1);
      });
      body.append(...rows,...last);
    });
  });
}
)js";

}  // namespace pear::study
