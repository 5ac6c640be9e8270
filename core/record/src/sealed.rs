//! The sealed file and how it is made.

use crate::canonical::{NotCanonical, bytes, digest, member_digests};
use crate::key::SealingKey;
use judge::HoldCase;
use judge::judgement::Judgement;
use moment::{Instant, Zone};
use pack::instrument::Instrument;
use pack::plan::Plan;
use pack::registers::{BoundaryItem, Decision, LookAt, Punch, StillOwed};
use pack::restore::RestoreLine;
use pack::schedule::Step;
use rules::derivation::Derivation;
use rules::system::{Derived, System};
use run::frozen::PassedGate;
use run::packed::PackedRows;
use run::{Frozen, Run};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::Arc;

/// Name of the format, as this version writes it.
pub const FORMAT: &str = "zero-leak/sealed-record/6";

/// Every format that this version reads: an older file is opened, proven and printed for ever.
pub const READS: [&str; 6] = [
    "zero-leak/sealed-record/1",
    "zero-leak/sealed-record/2",
    "zero-leak/sealed-record/3",
    "zero-leak/sealed-record/4",
    "zero-leak/sealed-record/5",
    FORMAT,
];

/// Who and what the record is about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Subject {
    /// Number of the pack.
    pub pack_number: String,
    /// Title of the pack.
    pub title: String,
    /// `quick` or `pack`.
    pub form: pack::signing::Form,
    /// Who signs it; absent before the sixth format.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub signers: Option<pack::signing::Signers>,
    /// Number of the attempt within the pack.
    pub attempt: u32,
    /// When it was released for test, RFC 3339.
    pub released_at: String,
    /// The attempt that this one follows, if any.
    pub follows_attempt: Option<u32>,
    /// SHA-256 of the content of the record that this one supersedes, if any.
    pub supersedes: Option<String>,
    /// Why it supersedes.
    pub supersedes_reason: Option<String>,
    /// Name of the site; absent before the third format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// Zone by whose days certificates count, and in which its times are printed; absent before the fourth format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub zone: String,
    /// Version of the software.
    pub software: String,
    /// Rules by which it was released, where the window was frozen then; absent in the first format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub released_by_rules: String,
    /// How many times faster than the real one the clock of a training installation ran; absent for a real test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub training_clock_rate: Option<f64>,
    /// True when it was made on a simulated system.
    #[serde(default, skip_serializing_if = "is_false")]
    pub practice: bool,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
fn is_false(b: &bool) -> bool {
    !b
}

/// One event as recorded.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RecordedEvent {
    /// Its id.
    pub id: String,
    /// When, RFC 3339.
    pub at: String,
    /// What.
    pub kind: terms::EventKind,
    /// Place class of a leak, or of a look at one class.
    pub place: Option<terms::LeakPlace>,
    /// How many places of that class were looked at.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub looked: Option<u32>,
    /// Volume measured of a repump or bleed, m³.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_m3: Option<f64>,
    /// Figure of what was booked by hand, in the SI unit of its kind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub figure: Option<f64>,
    /// The thing, place or person that it is about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// Free words.
    pub note: String,
    /// Who booked it.
    pub by: String,
    /// When it was booked, RFC 3339, by the database's clock: what was booked afterwards is told from what was booked then. Absent before the
    /// third format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub stored_at: String,
}

/// That a reading was struck out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StruckOut {
    /// By whom.
    pub by: String,
    /// Why.
    pub reason: String,
}

/// A reading as somebody typed it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RecordedReading {
    /// Its id.
    pub id: String,
    /// When it was read, RFC 3339.
    pub at: String,
    /// `pressure` or `temperature`.
    pub channel: String,
    /// Tag of the further gauge or thermometer that it was read from; absent for those that the test is read from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// As typed, with its unit where one was typed.
    pub as_typed: String,
    /// Pa gauge, or °C.
    pub value: f64,
    /// Who read it.
    pub by: String,
    /// Who struck it out and why, where it does not count.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub struck: Option<StruckOut>,
    /// When it was stored, RFC 3339, by the database's clock; absent before the third format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub stored_at: String,
}

/// A logger's file from which readings were taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LoggerFile {
    /// Its name.
    pub file_name: String,
    /// SHA-256 of its bytes; the installation keeps the file itself.
    pub sha256: String,
    /// Rows that were read.
    pub rows: u32,
    /// How it was read: columns, units, decimal sign, zone.
    #[schema(value_type = Object)]
    pub mapping: serde_json::Value,
    /// Who brought it.
    pub by: String,
    /// When it was stored, RFC 3339, by the database's clock; absent before the third format.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub stored_at: String,
}

/// What the recorder read of one instrument.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RecordedChannel {
    /// Tag of the instrument.
    pub tag: String,
    /// Readings that it gave.
    pub readings: u32,
    /// Times that it was asked and gave none.
    pub unanswered: u32,
    /// SHA-256 over its readings: time in µs since 1970 and value, each 8 bytes little-endian.
    pub sha256: String,
}

/// Where the readings come from, before any arithmetic.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sources {
    /// Typed readings, all of the run.
    pub typed: Vec<RecordedReading>,
    /// Loggers' files.
    pub files: Vec<LoggerFile>,
    /// What the recorder read, instrument by instrument.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub recorded: Vec<RecordedChannel>,
}

/// What became of an attempt before.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EarlierAttempt {
    /// Its number.
    pub number: u32,
    /// When it was released, RFC 3339.
    pub released_at: String,
    /// What the basis made of it; absent where it was let out with nothing to judge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub outcome: Option<terms::Outcome>,
    /// Leaks that were seen: class of the place, and what was written.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub leaks: Vec<SeenLeak>,
    /// SHA-256 of its record, where it was signed.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub content_sha256: String,
}

/// A leak that was seen in an attempt before.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SeenLeak {
    /// Class of the place.
    pub class: Option<terms::LeakPlace>,
    /// Where, and what was seen.
    pub place: String,
}

/// The parts of a record. Each is hashed by itself, so that an alteration names its part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Parts {
    /// Who and what it is about.
    pub subject: Subject,
    /// What was planned.
    pub plan: Plan,
    /// The system as entered.
    pub system: System,
    /// The window and what follows.
    pub derived: Derived,
    /// Answers to *why?*.
    pub derivations: Vec<Derivation>,
    /// Steps of the raise.
    pub schedule: Vec<Step>,
    /// Instruments with their certificates.
    pub instruments: Vec<Instrument>,
    /// Punch list at sealing.
    pub punch: Vec<Punch>,
    /// Blinds and removed items.
    pub boundary: Vec<BoundaryItem>,
    /// Events.
    pub events: Vec<RecordedEvent>,
    /// Readings as typed, and the files of loggers.
    pub sources: Sources,
    /// Readings and all that the judgement rests on.
    pub readings: HoldCase,
    /// Finding and verdict.
    pub judgement: Judgement,
    /// What was put back.
    pub restore: Vec<RestoreLine>,
    /// Places to look at, with what was found in this attempt; absent where no list was made, and before the fifth format.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub looks: Vec<LookAt>,
    /// What was promised for afterwards.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub promises: Vec<StillOwed>,
    /// What was decided after this attempt or one before.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub decisions: Vec<Decision>,
    /// The gates as they were passed at the release; absent before the fifth format.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub gates: Vec<PassedGate>,
    /// Attempts before this one, the last ones; absent for the first, and before the fifth format.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub earlier: Vec<EarlierAttempt>,
    /// Cautions that go with every record.
    pub cautions: Vec<String>,
    /// Who booked what of the registers, and when; absent in records of before these were sealed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub booked: Vec<Booked>,
    /// The rows of the run, from which its hold is gathered again; absent before the fourth format.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rows: Option<PackedRows>,
}

impl Parts {
    /// The run that the record is of, from its own rows; none before the fourth format.
    ///
    /// # Errors
    /// When its bytes are damaged, or it names a time that is none.
    pub fn run(&self) -> Result<Option<Run>, String> {
        let Some(rows) = &self.rows else { return Ok(None) };
        let released_at = Instant::parse(&self.subject.released_at).ok_or("it does not say when it was released")?;
        let frozen = Frozen {
            title: self.subject.title.clone(),
            plan: self.plan.clone(),
            parts: self.system.parts.clone(),
            instruments: self.instruments.clone(),
            specification: self.system.specification.clone(),
            derived: Some(self.derived.clone()),
            rules_version: self.subject.released_by_rules.clone(),
            gates: self.gates.clone(),
        };
        Ok(Some(Run::of(released_at, Arc::new(frozen), rows.unpacked().map_err(|e| e.to_string())?)))
    }

    /// Its zone; universal time before the fourth format.
    pub fn zone(&self) -> Zone {
        Zone::named(&self.subject.zone).unwrap_or_else(Zone::utc)
    }
}

/// What was booked of an item of a register.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BookedAct {
    /// a punch item was cleared
    Cleared,
    /// a blind was set, an item removed
    Set,
    /// a blind is out, an item is back
    PutBack,
    /// a place was looked at
    Looked,
    /// what is owed was carried over
    CarriedOver,
    /// what was owed or decided was done
    Done,
}

/// A booking of an item, with its author.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Booked {
    /// Number or tag of the item.
    pub item: String,
    /// What was booked.
    pub act: BookedAct,
    /// Sign-in name of the person.
    pub by: String,
    /// When it was stored, RFC 3339.
    pub stored_at: String,
}

/// One person's signature. Each covers the content and the signature before it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignedStatement {
    /// What the signature does.
    pub act: pack::signing::Act,
    /// Sign-in name of the person.
    pub person: String,
    /// Role in which they signed.
    pub role: pack::people::Role,
    /// What they stated.
    pub statement: String,
    /// How somebody signed who has no account; absent for whoever has one, and before the sixth format.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by_hand: Option<SignedByHand>,
    /// When, RFC 3339.
    pub signed_at: String,
    /// SHA-256 of the content.
    pub content_sha256: String,
    /// SHA-256 of the signature before, in its canonical form; empty for the first.
    pub previous_sha256: String,
    /// Ed25519 of all the above in canonical form, by the installation's key.
    pub ed25519: String,
}

/// A signature of somebody without an account.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignedByHand {
    /// Their name, as they wrote it.
    pub name: String,
    /// For whom they sign: a firm, an authority, a club, or themselves.
    pub body: String,
    /// Number of their appointment, badge or stamp; empty where they have none.
    pub number: String,
    /// Over a link, or on the device of whoever tested.
    pub way: pack::signing::HandWay,
    /// False where nothing proves who drew it: such a signature is no authority's acceptance.
    pub authenticated: bool,
    /// What they drew: strokes of points in a field of 600 by 200, as an SVG path of `M` and `L`.
    pub drawing: String,
}

/// What is signed of a statement: everything but the signature.
#[derive(Serialize)]
pub(crate) struct StatementBody<'a> {
    act: pack::signing::Act,
    person: &'a str,
    role: pack::people::Role,
    statement: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    by_hand: Option<&'a SignedByHand>,
    signed_at: &'a str,
    content_sha256: &'a str,
    previous_sha256: &'a str,
}

impl SignedStatement {
    pub(crate) fn body(&self) -> StatementBody<'_> {
        StatementBody {
            act: self.act,
            person: &self.person,
            role: self.role,
            statement: &self.statement,
            by_hand: self.by_hand.as_ref(),
            signed_at: &self.signed_at,
            content_sha256: &self.content_sha256,
            previous_sha256: &self.previous_sha256,
        }
    }

    /// Signs: fills in the chain and the signature.
    ///
    /// # Errors
    /// Never in practice: every field is text.
    pub fn sign(mut self, previous: Option<&Self>, key: &SealingKey) -> Result<Self, NotCanonical> {
        self.previous_sha256 = previous.map(digest).transpose()?.unwrap_or_default();
        self.ed25519 = key.sign(&bytes(&self.body())?);
        Ok(self)
    }
}

/// The seal over content and signatures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Seal {
    /// SHA-256 of each part's canonical form.
    pub part_sha256: BTreeMap<String, String>,
    /// SHA-256 of that table's canonical form: the hash of the content.
    pub content_sha256: String,
    /// SHA-256 of the signatures' canonical form.
    pub signatures_sha256: String,
    /// Public key of the installation, hex.
    pub public_key: String,
    /// Fingerprint of that key.
    pub fingerprint: String,
    /// Ed25519 over format, content and signatures.
    pub ed25519: String,
}

/// The whole file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SealedRecord {
    /// [`FORMAT`].
    pub format: String,
    /// Content.
    pub parts: Parts,
    /// Signatures in order.
    pub signatures: Vec<SignedStatement>,
    /// Seal.
    pub seal: Seal,
}

/// What the seal signs.
#[derive(Serialize)]
pub(crate) struct SealBody<'a> {
    format: &'a str,
    content_sha256: &'a str,
    signatures_sha256: &'a str,
    public_key: &'a str,
    fingerprint: &'a str,
}

impl Seal {
    pub(crate) fn body<'a>(&'a self, format: &'a str) -> SealBody<'a> {
        SealBody {
            format,
            content_sha256: &self.content_sha256,
            signatures_sha256: &self.signatures_sha256,
            public_key: &self.public_key,
            fingerprint: &self.fingerprint,
        }
    }
}

/// The format of a content: since the sixth it names who signs it, since the fifth its judgement has three lines, since the fourth it names its zone, since the third its site, since the second its system says in which it was written.
fn format_of(canonical: &[u8]) -> &'static str {
    #[derive(Deserialize)]
    struct System {
        format: Option<u32>,
    }
    #[derive(Deserialize)]
    struct Site {
        site: Option<String>,
        zone: Option<String>,
        signers: Option<serde::de::IgnoredAny>,
    }
    #[derive(Deserialize)]
    struct Said {
        system: Option<System>,
        subject: Option<Site>,
        judgement: Option<Lines>,
    }
    #[derive(Deserialize)]
    struct Lines {
        lines: Option<serde::de::IgnoredAny>,
    }
    let said = serde_json::from_slice::<Said>(canonical).ok();
    let site = said.as_ref().and_then(|s| s.subject.as_ref()?.site.as_ref()).is_some_and(|s| !s.is_empty());
    let zone = said.as_ref().and_then(|s| s.subject.as_ref()?.zone.as_ref()).is_some_and(|z| !z.is_empty());
    let lines = said.as_ref().is_some_and(|s| s.judgement.as_ref().is_some_and(|j| j.lines.is_some()));
    let signers = said.as_ref().is_some_and(|s| s.subject.as_ref().is_some_and(|s| s.signers.is_some()));
    let format = said.as_ref().and_then(|s| s.system.as_ref()?.format);
    match format {
        Some(2..) if site && zone && lines && signers => FORMAT,
        Some(2..) if site && zone && lines => READS[4],
        Some(2..) if site && zone => READS[3],
        Some(2..) if site => READS[2],
        Some(2..) => READS[1],
        _ => READS[0],
    }
}

/// A content in canonical form: its parts are hashed in it, and it stands in the file as it is.
#[derive(Debug, Clone)]
pub struct Content {
    format: &'static str,
    canonical: Vec<u8>,
    part_sha256: BTreeMap<String, String>,
}

impl Content {
    /// Writes a content.
    ///
    /// # Errors
    /// When a number is not finite.
    pub fn new(parts: &Parts) -> Result<Self, NotCanonical> {
        Self::kept(bytes(parts)?)
    }

    /// A content that was written before and kept.
    ///
    /// # Errors
    /// When the bytes are no object.
    pub fn kept(canonical: Vec<u8>) -> Result<Self, NotCanonical> {
        Ok(Self { part_sha256: member_digests(&canonical)?, format: format_of(&canonical), canonical })
    }

    /// Name of the format that it is written in.
    pub const fn format(&self) -> &'static str {
        self.format
    }

    /// Its canonical form.
    pub fn canonical(&self) -> &[u8] {
        &self.canonical
    }

    /// SHA-256 of each part's canonical form.
    pub const fn part_sha256(&self) -> &BTreeMap<String, String> {
        &self.part_sha256
    }

    /// Hash of the content: what each person signs.
    ///
    /// # Errors
    /// Never in practice: the table holds text alone.
    pub fn sha256(&self) -> Result<String, NotCanonical> {
        digest(&self.part_sha256)
    }

    /// The canonical form of the whole file: RFC 8785 sorts its four members by name.
    pub(crate) fn file<S: Serialize>(&self, format: &str, signatures: &[S], seal: &impl Serialize) -> Result<Vec<u8>, NotCanonical> {
        let members: [(&[u8], &[u8]); 4] = [
            (b"{\"format\":", &bytes(&format)?),
            (b",\"parts\":", &self.canonical),
            (b",\"seal\":", &bytes(seal)?),
            (b",\"signatures\":", &bytes(&signatures)?),
        ];
        let mut file = Vec::with_capacity(self.canonical.len() + 16_384);
        for (name, value) in members {
            file.extend_from_slice(name);
            file.extend_from_slice(value);
        }
        file.push(b'}');
        Ok(file)
    }

    /// Seals the content with its signatures: the seal, and the file.
    ///
    /// # Errors
    /// Never in practice: what is written here is text.
    pub fn seal(&self, signatures: &[SignedStatement], key: &SealingKey) -> Result<(Seal, Vec<u8>), NotCanonical> {
        let public = key.public();
        let mut seal = Seal {
            content_sha256: self.sha256()?,
            part_sha256: self.part_sha256.clone(),
            signatures_sha256: digest(&signatures)?,
            public_key: public.to_hex(),
            fingerprint: public.fingerprint(),
            ed25519: String::new(),
        };
        seal.ed25519 = key.sign(&bytes(&seal.body(self.format))?);
        let file = self.file(self.format, signatures, &seal)?;
        Ok((seal, file))
    }
}
