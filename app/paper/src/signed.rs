//! Printed pages that are signed: a certification signature that allows no change (PAdES B-B, DocMDP 1) over every byte of the PDF, as any
//! reader's signature panel expects it.
//!
//! Sources: ETSI EN 319 142-1 (profile B-B), ISO 32000-1 12.8 (signatures, DocMDP), RFC 5652 (CMS), RFC 5035 (signing certificate). From memory.

use crate::paper_key::{ECDSA_SHA256, PaperKey, proven};
use cms::cert::{CertificateChoices, IssuerAndSerialNumber};
use cms::content_info::{CmsVersion, ContentInfo};
use cms::signed_data::{CertificateSet, EncapsulatedContentInfo, SignedAttributes, SignedData, SignerIdentifier, SignerInfo, SignerInfos};
use der::asn1::{ObjectIdentifier, OctetString, SetOfVec};
use der::{Any, Decode, Encode, Sequence, Tag};
use p256::ecdsa::Signature;
use p256::ecdsa::signature::Verifier;
use record::canonical::{hex, sha256, unhex};
use record::key::PublicKey;
use x509_cert::attr::Attribute;
use x509_cert::certificate::Certificate;
use x509_cert::spki::AlgorithmIdentifierOwned;

const SHA256: ObjectIdentifier = ObjectIdentifier::new_unwrap("2.16.840.1.101.3.4.2.1");
const DATA: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.113549.1.7.1");
const SIGNED_DATA: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.113549.1.7.2");
const CONTENT_TYPE: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.113549.1.9.3");
const MESSAGE_DIGEST: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.113549.1.9.4");
const SIGNING_CERTIFICATE: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.113549.1.9.16.2.47");

/// Room for the signature, hex digits.
const ROOM: usize = 8192;
/// Room for the numbers of the byte range.
const RANGE: &str = "[0 0000000000 0000000000 0000000000]";

/// The certificate that a signature is made with, by its digest (SHA-256, which is left out as the default).
#[derive(Sequence)]
struct EssCertId {
    hash: OctetString,
}

#[derive(Sequence)]
struct SigningCertificate {
    certs: Vec<EssCertId>,
}

/// The pages cannot be signed; a fault of the program.
#[derive(Debug, thiserror::Error)]
#[error("the pages cannot be signed: {0}")]
pub struct CannotSign(String);

impl From<der::Error> for CannotSign {
    fn from(e: der::Error) -> Self {
        Self(e.to_string())
    }
}

fn missing(what: &str) -> CannotSign {
    CannotSign(format!("{what} is not found in them"))
}

/// What a PDF's last section says of itself.
struct Layout<'a> {
    root: u32,
    size: u32,
    start: usize,
    information: &'a str,
}

fn number_after(text: &str, name: &str) -> Option<u32> {
    text.split_once(name)?.1.trim_start().split(|c: char| !c.is_ascii_digit()).next()?.parse().ok()
}

fn layout(pdf: &[u8]) -> Option<Layout<'_>> {
    let end = std::str::from_utf8(&pdf[pdf.windows(7).rposition(|w| w == b"trailer")?..]).ok()?;
    let information = end.split_once("/Info")?.1;
    let information = &end[end.len() - information.len() - 5..end.find(">>")?];
    Some(Layout {
        root: number_after(end, "/Root")?,
        size: number_after(end, "/Size")?,
        start: number_after(end, "startxref")? as usize,
        information,
    })
}

/// The dictionary of an object that is written plainly, without its brackets.
fn dictionary(pdf: &[u8], object: u32) -> Option<&str> {
    let head = format!("\n{object} 0 obj\n<<");
    let from = pdf.windows(head.len()).rposition(|w| w == head.as_bytes())? + head.len();
    let end = from + pdf[from..].windows(10).position(|w| w == b">>\nendobj\n")?;
    std::str::from_utf8(&pdf[from..end]).ok()
}

/// Signs a PDF by adding to its end; `at` is the time that the signature names, RFC 3339 in UTC.
///
/// # Errors
/// When the PDF is not written as the typesetter writes it.
pub fn sign(pdf: &[u8], key: &PaperKey, at: &str, reason: &str) -> Result<Vec<u8>, CannotSign> {
    let l = layout(pdf).ok_or_else(|| missing("the trailer"))?;
    let catalogue = dictionary(pdf, l.root).ok_or_else(|| missing("the catalogue"))?;
    let pages = number_after(catalogue, "/Pages").ok_or_else(|| missing("the tree of pages"))?;
    let first = dictionary(pdf, pages)
        .and_then(|p| number_after(p, "/Kids[").or_else(|| number_after(p, "/Kids [")))
        .ok_or_else(|| missing("the first page"))?;
    let page = dictionary(pdf, first).ok_or_else(|| missing("the first page"))?;
    let (field, value) = (l.size, l.size + 1);
    let when: String = at.chars().take(19).filter(char::is_ascii_digit).collect();
    let who = key.certificate().tbs_certificate.subject.to_string();
    let text = |s: &str| s.chars().filter(|c| c.is_ascii() && !"()\\".contains(*c)).collect::<String>();
    let mut out = pdf.to_vec();
    if out.last() != Some(&b'\n') {
        out.push(b'\n');
    }
    let mut offsets: Vec<(u32, usize)> = Vec::new();
    let mut add = |out: &mut Vec<u8>, number: u32, body: &str| {
        offsets.push((number, out.len()));
        out.extend_from_slice(format!("{number} 0 obj\n<<{body}>>\nendobj\n").as_bytes());
    };
    add(&mut out, first, &format!("{page}/Annots[{field} 0 R]"));
    add(&mut out, l.root, &format!("{catalogue}/AcroForm<</Fields[{field} 0 R]/SigFlags 3>>/Perms<</DocMDP {value} 0 R>>"));
    add(
        &mut out,
        field,
        &format!(
            "/Type/Annot/Subtype/Widget/FT/Sig/T(Seal)/TU(Signature of the installation over these pages)/F 132/Rect[-10 -10 -10 -10]/P {first} 0 R/V {value} 0 R"
        ),
    );
    add(
        &mut out,
        value,
        &format!(
            "/Type/Sig/Filter/Adobe.PPKLite/SubFilter/ETSI.CAdES.detached/M(D:{when}Z)/Name({})/Reason({})/Reference[<</Type/SigRef/TransformMethod/DocMDP/TransformParams<</Type/TransformParams/P 1/V/1.2>>>>]/ByteRange{RANGE}/Contents<{}>",
            text(&who),
            text(reason),
            "0".repeat(ROOM)
        ),
    );
    offsets.sort_unstable();
    let xref = out.len();
    let mut table = String::from("xref\n");
    for (number, offset) in &offsets {
        table += &format!("{number} 1\n{offset:010} 00000 n\r\n");
    }
    table += &format!("trailer\n<</Size {}/Root {} 0 R{}/Prev {}>>\nstartxref\n{xref}\n%%EOF\n", value + 1, l.root, l.information, l.start);
    out.extend_from_slice(table.as_bytes());
    let gap = gap(&out).ok_or_else(|| missing("the room for the signature"))?;
    let range = format!("{:<width$}", format!("[0 {} {} {}", gap.0, gap.1, out.len() - gap.1), width = RANGE.len() - 1) + "]";
    let at = out.windows(RANGE.len()).rposition(|w| w == RANGE.as_bytes()).ok_or_else(|| missing("the room for the range"))?;
    out[at..at + RANGE.len()].copy_from_slice(range.as_bytes());
    let signed = [&out[..gap.0], &out[gap.1..]].concat();
    let contents = hex(&cms(key, &sha256(&signed))?);
    if contents.len() > ROOM {
        return Err(CannotSign("the signature is longer than the room for it".to_owned()));
    }
    out[gap.0 + 1..gap.0 + 1 + contents.len()].copy_from_slice(contents.as_bytes());
    Ok(out)
}

/// Where the last signature stands, from its opening bracket to behind its closing one.
fn gap(pdf: &[u8]) -> Option<(usize, usize)> {
    const NAME: &[u8] = b"/Contents<";
    let from = pdf.windows(NAME.len()).rposition(|w| w == NAME)? + NAME.len() - 1;
    let to = from + pdf[from..].iter().position(|b| *b == b'>')? + 1;
    Some((from, to))
}

fn attribute(oid: ObjectIdentifier, value: Any) -> der::Result<Attribute> {
    Ok(Attribute { oid, values: SetOfVec::try_from(vec![value])? })
}

/// Everything of a signature that it does not cover itself, in DER.
fn unsigned_part(signed: &SignedData, signer: &SignerInfo) -> der::Result<Vec<u8>> {
    let of_signer = [
        signer.version.to_der()?,
        signer.sid.to_der()?,
        signer.digest_alg.to_der()?,
        signer.signature_algorithm.to_der()?,
        vec![u8::from(signer.unsigned_attrs.is_some())],
    ];
    let around = [
        signed.version.to_der()?,
        signed.digest_algorithms.to_der()?,
        signed.encap_content_info.to_der()?,
        vec![u8::from(signed.crls.is_some())],
    ];
    Ok([of_signer.concat(), around.concat()].concat())
}

/// The same as this program writes it with a certificate.
fn unsigned_part_of(certificate: &Certificate) -> der::Result<Vec<u8>> {
    let signer = signer(certificate, SetOfVec::new(), Vec::new())?;
    unsigned_part(&signed_data(certificate, signer.clone())?, &signer)
}

fn algorithm(oid: ObjectIdentifier) -> AlgorithmIdentifierOwned {
    AlgorithmIdentifierOwned { oid, parameters: None }
}

fn signer(certificate: &Certificate, attributes: SignedAttributes, signature: Vec<u8>) -> der::Result<SignerInfo> {
    Ok(SignerInfo {
        version: CmsVersion::V1,
        sid: SignerIdentifier::IssuerAndSerialNumber(IssuerAndSerialNumber {
            issuer: certificate.tbs_certificate.issuer.clone(),
            serial_number: certificate.tbs_certificate.serial_number.clone(),
        }),
        digest_alg: algorithm(SHA256),
        signature: OctetString::new(signature)?,
        signed_attrs: Some(attributes),
        signature_algorithm: algorithm(ECDSA_SHA256),
        unsigned_attrs: None,
    })
}

fn signed_data(certificate: &Certificate, signer: SignerInfo) -> der::Result<SignedData> {
    Ok(SignedData {
        version: CmsVersion::V1,
        digest_algorithms: SetOfVec::try_from(vec![algorithm(SHA256)])?,
        encap_content_info: EncapsulatedContentInfo { econtent_type: DATA, econtent: None },
        certificates: Some(CertificateSet(SetOfVec::try_from(vec![CertificateChoices::Certificate(certificate.clone())])?)),
        crls: None,
        signer_infos: SignerInfos(SetOfVec::try_from(vec![signer])?),
    })
}

/// The signature over a digest, as CMS.
fn cms(key: &PaperKey, digest: &[u8]) -> der::Result<Vec<u8>> {
    let certificate = key.certificate();
    let ess = SigningCertificate { certs: vec![EssCertId { hash: OctetString::new(sha256(&certificate.to_der()?))? }] };
    let attributes: SignedAttributes = SetOfVec::try_from(vec![
        attribute(CONTENT_TYPE, Any::from(DATA))?,
        attribute(MESSAGE_DIGEST, Any::new(Tag::OctetString, digest)?)?,
        attribute(SIGNING_CERTIFICATE, Any::from_der(&ess.to_der()?)?)?,
    ])?;
    let signature = key.sign(&attributes.to_der()?);
    let signed = signed_data(certificate, signer(certificate, attributes, signature)?)?;
    ContentInfo { content_type: SIGNED_DATA, content: Any::encode_from(&signed)? }.to_der()
}

/// What a signature on pages says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PagesSignature {
    /// every byte is as it was signed, by the installation with this sealing key
    By(PublicKey),
    /// there is none: printed before pages were signed, or taken off
    None,
    /// there is one, and it does not fit these bytes
    Broken(&'static str),
}

/// Looks at the signature of a PDF: it must cover every byte of the file but itself.
pub fn look(pdf: &[u8]) -> PagesSignature {
    // whatever is left of a signature: one that was damaged is no page without any
    const SIGNS: [&[u8]; 4] = [b"/SubFilter/ETSI.CAdES.detached", b"/ByteRange[", b"/DocMDP", b"/FT/Sig"];
    if !SIGNS.iter().any(|sign| pdf.windows(sign.len()).any(|w| w == *sign)) {
        return PagesSignature::None;
    }
    proven_by(pdf).map_or_else(PagesSignature::Broken, PagesSignature::By)
}

fn proven_by(pdf: &[u8]) -> Result<PublicKey, &'static str> {
    const OUTSIDE: &str = "bytes were added, taken away or changed since they were signed";
    const CANNOT: &str = "the signature cannot be read";
    let gap = gap(pdf).ok_or(CANNOT)?;
    const NAME: &[u8] = b"/ByteRange[";
    let at = pdf[..gap.0].windows(NAME.len()).rposition(|w| w == NAME).ok_or(CANNOT)? + NAME.len();
    let end = at + pdf[at..gap.0].iter().position(|b| *b == b']').ok_or(CANNOT)?;
    let range: Vec<usize> =
        std::str::from_utf8(&pdf[at..end]).map_err(|_| CANNOT)?.split_ascii_whitespace().filter_map(|n| n.parse().ok()).collect();
    if range != [0, gap.0, gap.1, pdf.len() - gap.1] {
        return Err(OUTSIDE);
    }
    let contents = std::str::from_utf8(&pdf[gap.0 + 1..gap.1 - 1]).ok().and_then(unhex).ok_or(CANNOT)?;
    let digest = sha256(&[&pdf[..gap.0], &pdf[gap.1..]].concat());
    let info = first_der(&contents).and_then(|der| ContentInfo::from_der(der).ok()).ok_or(CANNOT)?;
    // what fills the room behind it is nothing
    let written = info.to_der().map_err(|_| CANNOT)?;
    if contents[..written.len()] != written || contents[written.len()..].iter().any(|b| *b != 0) {
        return Err(OUTSIDE);
    }
    if info.content_type != SIGNED_DATA {
        return Err(CANNOT);
    }
    let signed: SignedData = info.content.decode_as().map_err(|_| CANNOT)?;
    let [signer] = signed.signer_infos.0.as_slice() else { return Err(CANNOT) };
    let attributes = signer.signed_attrs.as_ref().ok_or(CANNOT)?;
    let Some([CertificateChoices::Certificate(certificate)]) = signed.certificates.as_ref().map(|c| c.0.as_slice()) else {
        return Err(CANNOT);
    };
    // what the signature itself does not cover is only ever written in one way
    if unsigned_part(&signed, signer).ok() != unsigned_part_of(certificate).ok() {
        return Err(OUTSIDE);
    }
    let value = |oid| attributes.iter().find(|a| a.oid == oid).and_then(|a| a.values.get(0));
    if value(MESSAGE_DIGEST).is_none_or(|v| v.value() != digest) {
        return Err(OUTSIDE);
    }
    let certified = sha256(&certificate.to_der().map_err(|_| CANNOT)?);
    let named: Option<SigningCertificate> = value(SIGNING_CERTIFICATE).and_then(|v| v.decode_as().ok());
    if named.is_none_or(|n| n.certs.first().is_none_or(|c| c.hash.as_bytes() != certified)) {
        return Err("the signature names another certificate than it carries");
    }
    let (key, sealing) = proven(certificate).ok_or("the certificate does not prove by which installation it was made")?;
    let signature = Signature::from_der(signer.signature.as_bytes()).map_err(|_| CANNOT)?;
    let message = attributes.to_der().map_err(|_| CANNOT)?;
    key.verify(&message, &signature).map_err(|_| "the signature was not made with the key of its certificate")?;
    Ok(sealing)
}

/// The bytes of the first value in DER, without what stands behind it.
fn first_der(bytes: &[u8]) -> Option<&[u8]> {
    let long = usize::from(*bytes.get(1)?);
    let (head, length) = if long < 0x80 {
        (2, long)
    } else {
        let count = long & 0x7f;
        if count == 0 || count > 4 {
            return None;
        }
        (2 + count, bytes.get(2..2 + count)?.iter().fold(0usize, |sum, b| sum << 8 | usize::from(*b)))
    };
    bytes.get(..head.checked_add(length)?)
}
