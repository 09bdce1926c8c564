import { LOOK } from '../core/scene/look.js';

/** Fonts as base64 WOFF2, which become part of the page. */
export interface ReportFont {
  readonly regular: string;
  readonly semibold: string;
}

/** Style of the report: a page of a notebook on the screen, the same on paper. */
export function reportStyle(font: ReportFont | undefined): string {
  const face = (weight: number, data: string) =>
    `@font-face{font-family:'Source Sans ` +
    `3';font-weight:${weight};src:url(data:font/woff2;base64,${data}) format('woff2')}\n`;
  const faces = font === undefined ? '' : face(400, font.regular) + face(600, font.semibold);
  return `${faces}
:root{color:${LOOK.ink};background:${LOOK.parchment};font:400 1rem/1.45 'Source Sans 3',sans-serif;
  font-variant-numeric:lining-nums tabular-nums;print-color-adjust:exact;-webkit-print-color-adjust:exact}
*{box-sizing:border-box}
body{margin:0 auto;max-width:70rem;padding:1.5rem 1.25rem 3rem}
h1{font-size:1.9rem;line-height:1.15;margin:0}
h2{font-size:1.3rem;line-height:1.2;margin:2rem 0 .6rem}
.part{font-size:1.05rem;margin:1.6rem 0 .5rem}
p{margin:.3rem 0}
.when{color:${LOOK.goldText}}
.figures{display:grid;grid-template-columns:repeat(auto-fill,minmax(8.6rem,1fr));gap:0;margin:.8rem 0 1.1rem;
  border-top:1.5px solid ${LOOK.ink};border-bottom:1.5px solid ${LOOK.ink}}
.figures div{padding:.45rem .2rem .5rem;border-bottom:1px solid ${LOOK.dune}}
.figures dt{font-size:.85rem;color:${LOOK.goldText}}
.figures dd{margin:0;font-size:1.28rem;font-weight:600;line-height:1.2}
.sheet{margin:0}.narrow{display:none}
.sheet svg{display:block;width:100%;height:auto;border:1px solid ${LOOK.ink}}
.charts{display:grid;grid-template-columns:repeat(auto-fit,minmax(min(26rem,100%),1fr));gap:1rem 1.5rem}
.charts.one{grid-template-columns:minmax(0,40rem)}
.chart{margin:0}
.chart svg{display:block;width:100%;height:auto}
.chart figcaption{font-weight:600;margin-bottom:.15rem}
.unit{font-weight:400;color:${LOOK.goldText};fill:${LOOK.goldText}}
.chart text{font-size:12px;fill:${LOOK.ink}}
.chart text.unit{fill:${LOOK.goldText}}
.grid{stroke:${LOOK.dune};fill:none}.tick{stroke:${LOOK.ink};fill:none}
.tables{display:grid;grid-template-columns:repeat(auto-fit,minmax(min(24rem,100%),1fr));gap:0 2rem;align-items:start}
.scroll{overflow-x:auto}
table{border-collapse:collapse;width:100%}
caption{text-align:left;font-weight:600;padding:1.2rem 0 .3rem;font-size:1.05rem}
th{font-weight:400;text-align:left;color:${LOOK.goldText};font-size:.88rem;border-bottom:1.5px solid ${LOOK.ink};
  white-space:nowrap}
th,td{padding:.22rem .7rem .22rem 0}
td{border-bottom:1px solid ${LOOK.dune}}
.number{text-align:right;white-space:nowrap}
.bar{width:28%;min-width:5rem}
.bar span{display:block;height:.7rem;background:${LOOK.violet}}
.best .bar span{background:${LOOK.gold}}
.defined{font-size:.88rem;columns:2 22rem;margin-top:2rem;border-top:1.5px solid ${LOOK.ink};padding-top:.6rem}
.defined dt{font-weight:600;float:left;margin-right:.4rem}
.defined dd{margin:0 0 .3rem}.defined div{break-inside:avoid}
.note{color:${LOOK.alertText}}
@media screen and (max-width:36rem){.narrow{display:block}.wide{display:none}.bar{display:none}
  th,td{padding-right:.5rem;font-size:.92rem}}
@media print{:root{background:none;font-size:10.5pt}body{max-width:none;padding:0}@page{size:A4;margin:12mm}
  .figures,.chart,.sheet,tr{break-inside:avoid}h2,.part,caption{break-after:avoid}thead{display:table-header-group}
  .charts,.tables{grid-template-columns:1fr 1fr}.scroll{overflow:visible}.sheet svg{max-height:108mm;width:auto;
  max-width:100%;margin:auto}.figures{grid-template-columns:repeat(6,1fr)}table{font-size:9.2pt}
  td{white-space:nowrap}.defined{font-size:8.5pt;margin-top:1rem;columns:2}caption{padding-top:.6rem}
  .part{margin:.8rem 0 .3rem}}
`;
}
