//! What the typesetter sees: the template, the data, the sealed file and the fonts, nothing of the machine.

use std::sync::LazyLock;
use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};

/// Faces that ship: for text, for figures, for signs that both lack, and for the letters of the world's sites.
static FONTS: LazyLock<Vec<Font>> = LazyLock::new(|| {
    let faces: [&'static [u8]; 12] = [
        include_bytes!("../fonts/hyper-400.ttf"),
        include_bytes!("../fonts/hyper-700.ttf"),
        include_bytes!("../fonts/hyper-mono-400.ttf"),
        include_bytes!("../fonts/signs-400.ttf"),
        include_bytes!("../fonts/letters-400.ttf"),
        include_bytes!("../fonts/letters-700.ttf"),
        include_bytes!("../fonts/arabic-400.ttf"),
        include_bytes!("../fonts/hebrew-400.ttf"),
        include_bytes!("../fonts/devanagari-400.ttf"),
        include_bytes!("../fonts/thai-400.ttf"),
        include_bytes!("../fonts/cjk-400.ttf"),
        include_bytes!("../fonts/hangul-400.ttf"),
    ];
    faces.iter().flat_map(|f| Font::iter(Bytes::new(*f))).collect()
});
static BOOK: LazyLock<LazyHash<FontBook>> = LazyLock::new(|| LazyHash::new(FontBook::from_fonts(&*FONTS)));
static LIBRARY: LazyLock<LazyHash<Library>> = LazyLock::new(|| LazyHash::new(Library::default()));
static MAIN: LazyLock<Source> = LazyLock::new(|| Source::new(id("report.typ"), include_str!("report.typ").to_owned()));
static CHARTS: LazyLock<Source> = LazyLock::new(|| Source::new(id("charts.typ"), include_str!("charts.typ").to_owned()));

fn id(name: &str) -> FileId {
    // the names are this module's own and valid
    VirtualPath::new(name).map_or_else(|_| unreachable!("a plain name is a path"), |p| RootedPath::new(VirtualRoot::Project, p).intern())
}

/// True when a face has the letter.
pub fn covered(c: char) -> bool {
    FONTS.iter().any(|f| f.info().coverage.contains(u32::from(c)))
}

/// The files of one document.
#[derive(Debug)]
pub struct Files {
    data: Bytes,
    sealed: Option<Bytes>,
}

impl Files {
    /// From the data of the template and the sealed file.
    pub fn new(data: Vec<u8>, sealed: Option<Vec<u8>>) -> Self {
        Self { data: Bytes::new(data), sealed: sealed.map(Bytes::new) }
    }
}

impl World for Files {
    fn library(&self) -> &LazyHash<Library> {
        &LIBRARY
    }
    fn book(&self) -> &LazyHash<FontBook> {
        &BOOK
    }
    fn main(&self) -> FileId {
        MAIN.id()
    }
    fn source(&self, id: FileId) -> FileResult<Source> {
        [&*MAIN, &*CHARTS].into_iter().find(|s| s.id() == id).cloned().ok_or(FileError::NotSource)
    }
    fn file(&self, file: FileId) -> FileResult<Bytes> {
        if file == id("data.json") {
            return Ok(self.data.clone());
        }
        match &self.sealed {
            Some(sealed) if file == id(paper::attached::NAME) => Ok(sealed.clone()),
            _ => Err(FileError::AccessDenied),
        }
    }
    fn font(&self, index: usize) -> Option<Font> {
        FONTS.get(index).cloned()
    }
    fn today(&self, _: Option<Duration>) -> Option<Datetime> {
        // nothing printed depends on when it is printed
        None
    }
}
