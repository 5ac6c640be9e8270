//! Whether a piece of text covers another, stands on the needle, or is cut: told from boxes in the browser.

use crate::browser::Browser;
use anyhow::Result;
use std::collections::BTreeMap;

const SCRIPT: &str = include_str!("overlap.js");

/// Desk, tablet and phone.
pub const SIZES: [(u32, u32); 3] = [(1280, 800), (800, 1280), (390, 844)];

/// What covers what on the pages that were looked at, each with the first place.
#[derive(Debug, Default)]
pub struct Overlaps(BTreeMap<String, String>);

impl Overlaps {
    /// Looks at the page that shows, in three sizes; the view is put back to the first of them.
    ///
    /// # Errors
    /// When the browser is gone.
    pub async fn look(&mut self, browser: &Browser, place: &str) -> Result<()> {
        for (width, height) in SIZES {
            browser.size(width, height).await?;
            // what follows the size is drawn with the next frames
            browser
                .driver
                .execute_async("requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(arguments[0], 30)))", Vec::new())
                .await?;
            for said in Self::seen(browser).await? {
                self.0.entry(said).or_insert_with(|| format!("{place} at {width}"));
            }
        }
        browser.size(SIZES[0].0, SIZES[0].1).await
    }

    /// What covers what on the page as it shows.
    ///
    /// # Errors
    /// When the browser is gone.
    pub async fn seen(browser: &Browser) -> Result<Vec<String>> {
        Ok(browser.driver.execute(SCRIPT, Vec::new()).await?.convert()?)
    }

    /// All that was found.
    pub fn all(&self) -> Vec<String> {
        self.0.iter().map(|(said, place)| format!("{place}: {said}")).collect()
    }
}
