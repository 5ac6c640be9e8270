//! The walk of the units: what a screen says in a unit that the person did not choose.

use crate::browser::Browser;
use anyhow::Result;
use std::collections::BTreeMap;

/// A person's units, as the device keeps them, and the words of every other.
pub struct Reads {
    kept: [(&'static str, &'static str); 4],
    /// alternatives of a pattern
    foreign: &'static str,
}

/// Of somebody who reads in metres; kPa, so that no gauge of the demo happens to agree.
pub const METRIC: Reads = Reads {
    kept: [("unit", "kpa"), ("unit-temperature", "celsius"), ("unit-length", "metre"), ("unit-volume", "litre")],
    foreign: "psi|psig|bar|mbar|MPa|kg/cm²|°F|ft|feet|foot|(?<=\\d\\u00a0)in|inch|inches|ft²|ft³|lb|lbf|lbs|lb/ft³|lbf/ft|ft·lbf|ft/s|gal|gallon|gallons|fl oz",
};

/// Of somebody who reads in feet and US gallons.
pub const US: Reads = Reads {
    kept: [("unit", "psi"), ("unit-temperature", "fahrenheit"), ("unit-length", "foot"), ("unit-volume", "us_gallon")],
    foreign: "bar|mbar|Pa|hPa|kPa|MPa|kg/cm²|°C|K|mm|cm|m|km|metres?|m²|m³|cm³|millimetres?|mL|L|litres?|mL/h|L/h|L/min|m³/h|m/s|kg|t|kN|N|N/m|kN/m|J|kJ|MJ|kg/m³|imp",
};

/// Of somebody who reads in kg/cm², feet and imperial gallons.
pub const IMPERIAL: Reads = Reads {
    kept: [("unit", "kg_cm2"), ("unit-temperature", "celsius"), ("unit-length", "foot"), ("unit-volume", "imperial_gallon")],
    foreign: "psi|psig|bar|mbar|Pa|hPa|kPa|MPa|°F|mm|cm|m|km|metres?|m²|m³|cm³|millimetres?|mL|L|litres?|mL/h|L/h|L/min|m³/h|m/s|US",
};

/// Words of a page, one place each: its own text and labels, without what somebody typed, what an instrument shows and what is
/// told as it is published. Answers those that match.
const FOREIGN: &str = r#"
const marked = "script, style, option, textarea, [data-typed], [data-dial], [data-published]";
const block = "p, li, td, th, dt, dd, label, button, h1, h2, h3, figcaption, text, summary, div";
const said = new Set();
const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
while (walker.nextNode()) {
  const own = walker.currentNode.parentElement;
  if (!own || own.closest(marked) || own.getClientRects().length === 0) continue;
  const place = own.closest(block) ?? own;
  if (place.closest(marked)) continue;
  const copy = place.cloneNode(true);
  copy.querySelectorAll(marked + ", " + block).forEach((e) => e.remove());
  said.add(copy.textContent);
}
for (const e of document.querySelectorAll("[aria-label], [placeholder], [title]"))
  if (!e.closest(marked)) for (const a of ["aria-label", "placeholder", "title"]) if (e.getAttribute(a)) said.add(e.getAttribute(a));
// a leak of a sensitive test is told in atm·mL/s everywhere
const words = new RegExp("(?<![\\w.·/])(" + arguments[0] + ")(?![\\w²³/·])");
return [...said].map((t) => t.replaceAll("atm·mL/s", "")).filter((t) => words.test(t)).map((t) => t.replace(/\s+/g, " ").trim());
"#;

/// Takes on a person's units and keeps what it found of others.
pub struct Walk {
    reads: &'static Reads,
    found: BTreeMap<String, String>,
}

impl Walk {
    /// From the next page on the person reads so.
    ///
    /// # Errors
    /// When the browser is gone.
    pub async fn begin(browser: &Browser, reads: &'static Reads) -> Result<Self> {
        for (key, value) in reads.kept {
            browser.driver.execute("localStorage.setItem(arguments[0], arguments[1])", vec![key.into(), value.into()]).await?;
        }
        Ok(Self { reads, found: BTreeMap::new() })
    }

    /// Reads the page that shows.
    ///
    /// # Errors
    /// When the browser is gone.
    pub async fn look(&mut self, browser: &Browser, place: &str) -> Result<()> {
        let said: Vec<String> = browser.driver.execute(FOREIGN, vec![self.reads.foreign.into()]).await?.convert()?;
        for text in said {
            self.found.entry(text).or_insert_with(|| place.to_owned());
        }
        Ok(())
    }

    /// Opens each *why?* of the page that shows and reads it.
    ///
    /// # Errors
    /// When one does not open.
    pub async fn look_behind(&mut self, browser: &Browser, place: &str) -> Result<usize> {
        const WHYS: &str = "[...document.querySelectorAll('button')].filter(e => e.textContent.trim() === 'why?')";
        let count: usize = browser.driver.execute(format!("return {WHYS}.length"), Vec::new()).await?.convert()?;
        for i in 0..count {
            browser.driver.execute(format!("{WHYS}[{i}].click()"), Vec::new()).await?;
            browser.find("//*[@role='dialog' and .//dt[.='rule' or .='source']]").await?;
            self.look(browser, &format!("{place}, a why")).await?;
            browser.escape().await?;
        }
        Ok(count)
    }

    /// What was said in units of others, each with the first place.
    pub fn foreign(&self) -> Vec<String> {
        self.found.iter().map(|(text, place)| format!("{place}: {text}")).collect()
    }
}
