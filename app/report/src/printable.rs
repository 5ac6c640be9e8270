//! What can be printed: every letter that a face has; what no face has stands as its code point, so that a word in any script never keeps a
//! record from being printed.

use crate::world::covered;
use serde_json::Value;

/// How freely letters are printed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Letters {
    /// every letter that a face has
    All,
    /// only those that stand by themselves, for a text whose letters do not join
    Plain,
}

/// Characters that draw nothing and turn the order of what stands round them: printed, they could make a sentence say something else.
const fn turns(c: char) -> bool {
    matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{200e}' | '\u{200f}' | '\u{061c}')
}

const fn private(c: char) -> bool {
    matches!(c, '\u{e000}'..='\u{f8ff}' | '\u{f0000}'..='\u{10ffff}')
}

/// Latin letters and signs that need nobody beside them.
const fn plain(c: char) -> bool {
    matches!(c, ' '..='~' | '\u{a0}'..='\u{24f}' | '\u{2010}'..='\u{2044}' | '\u{2070}'..='\u{209c}' | '\u{2190}'..='\u{21ff}' | '\u{2200}'..='\u{22ff}')
        || matches!(c, '\u{391}'..='\u{3c9}' | '\u{202f}' | '\u{2009}')
}

fn prints(c: char, letters: Letters) -> bool {
    if c == '\n' || c == '\t' {
        return true;
    }
    !c.is_control() && !turns(c) && !private(c) && covered(c) && (letters == Letters::All || plain(c))
}

/// A text as it can be printed.
pub fn printable(text: &str, letters: Letters) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        if prints(c, letters) {
            out.push(c);
        } else {
            out.push_str(&format!("[U+{:04X}]", u32::from(c)));
        }
    }
    out
}

/// The same of every text in what the template is given.
pub fn every_text(value: &mut Value, letters: Letters) {
    match value {
        Value::String(text) if text.chars().any(|c| !prints(c, letters)) => *text = printable(text, letters),
        Value::Array(all) => all.iter_mut().for_each(|v| every_text(v, letters)),
        Value::Object(all) => all.values_mut().for_each(|v| every_text(v, letters)),
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_letters_of_eight_scripts_print_and_what_no_face_has_is_its_code_point() {
        for text in [
            "Łódź, Þórshöfn, Đà Nẵng, Čačak, şğı, µ, ½",
            "Αθήνα, δοκιμή",
            "Київ, Өскемен, Ђаково",
            "اختبار الضغط",
            "מבחן לחץ",
            "दबाव परीक्षण",
            "การทดสอบแรงดัน",
            "压力试验 壓力試驗 耐圧テスト",
            "압력 시험",
        ] {
            assert_eq!(printable(text, Letters::All), text);
        }
        assert_eq!(printable("leak \u{1f4a7} at F-3", Letters::All), "leak [U+1F4A7] at F-3");
        assert_eq!(printable("a\u{202e}b\u{0}c\u{e123}", Letters::All), "a[U+202E]b[U+0000]c[U+E123]");
        assert_eq!(printable("दबाव 26 bar ≤ µ", Letters::Plain), "[U+0926][U+092C][U+093E][U+0935] 26 bar ≤ µ");
    }
}
