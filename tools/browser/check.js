// Opens a report in a browser as a stranger would: exits with 1 where anything is wrong.
const { HtmlValidate } = require("html-validate");
const puppeteer = require("puppeteer-core");
const path = require("path");

const [report, browser, pictures] = process.argv.slice(2);
const faults = [];

async function valid() {
  const checker = new HtmlValidate({ extends: ["html-validate:standard", "html-validate:a11y"] });
  const found = await checker.validateFile(report);
  for (const file of found.results)
    for (const message of file.messages)
      faults.push(`${message.ruleId} in line ${message.line}: ${message.message}`);
}

async function seen() {
  const opened = await puppeteer.launch({ executablePath: browser, args: ["--no-sandbox"] });
  for (const scheme of ["light", "dark", "print"]) {
    const page = await opened.newPage();
    await page.setViewport({ width: 1000, height: 1400 });
    if (scheme === "print") await page.emulateMediaType("print");
    else await page.emulateMediaFeatures([{ name: "prefers-color-scheme", value: scheme }]);
    page.on("console", (message) => faults.push(`${scheme}: ${message.text()}`));
    page.on("pageerror", (error) => faults.push(`${scheme}: ${error}`));
    page.on("request", (request) => {
      const url = request.url();
      if (!url.startsWith("file:") && !url.startsWith("data:")) faults.push(`asks for ${url}`);
    });
    await page.goto(`file://${path.resolve(report)}`);
    const drawn = await page.$$eval("img", (all) => all.map((img) => img.naturalWidth));
    if (!drawn.length || drawn.some((width) => !width)) faults.push(`${scheme}: a picture is not drawn`);
    await page.addScriptTag({ path: require.resolve("axe-core/axe.min.js") });
    const told = await page.evaluate(() => axe.run());
    for (const rule of told.violations)
      faults.push(`${scheme}: ${rule.id} (${rule.nodes.length}): ${rule.nodes[0].html.slice(0, 160)}`);
    console.log(`${scheme}: ${drawn.length} pictures, ${told.passes.length} rules of accessibility kept`);
    if (pictures) await page.screenshot({ path: path.join(pictures, `report-${scheme}.png`) });
  }
  await opened.close();
}

valid().then(seen).then(() => {
  for (const fault of faults) console.error(fault);
  console.log(faults.length ? `${faults.length} faults` : "valid, and nothing is wrong");
  process.exit(faults.length ? 1 : 0);
});
