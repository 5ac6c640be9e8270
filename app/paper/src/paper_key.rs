//! The key that printed pages are signed with (ECDSA P-256) and its certificate, both from the installation's sealing key.
//!
//! Readers of PDF know P-256 and not the key of the seal; the certificate names the sealing key and carries that key's own signature of it.

use der::asn1::{BitString, GeneralizedTime, Ia5String, OctetString};
use der::{DateTime, Decode, Encode};
use p256::ecdsa::signature::Signer;
use p256::ecdsa::{Signature, SigningKey, VerifyingKey};
use record::key::{PublicKey, SealingKey};
use std::str::FromStr;
use std::time::Duration;
use x509_cert::certificate::{Certificate, TbsCertificate, Version};
use x509_cert::der::asn1::ObjectIdentifier;
use x509_cert::ext::Extension;
use x509_cert::ext::pkix::name::GeneralName;
use x509_cert::ext::pkix::{KeyUsage, KeyUsages, SubjectAltName};
use x509_cert::name::Name;
use x509_cert::serial_number::SerialNumber;
use x509_cert::spki::{AlgorithmIdentifierOwned, SubjectPublicKeyInfoOwned};
use x509_cert::time::{Time, Validity};

/// ecdsa-with-SHA256.
pub(crate) const ECDSA_SHA256: ObjectIdentifier = ObjectIdentifier::new_unwrap("1.2.840.10045.4.3.2");
const SUBJECT_ALT_NAME: ObjectIdentifier = ObjectIdentifier::new_unwrap("2.5.29.17");
const KEY_USAGE: ObjectIdentifier = ObjectIdentifier::new_unwrap("2.5.29.15");
/// What the name in the certificate begins with that ties it to the sealing key.
const BOUND: &str = "urn:zero-leak:sealed-by:";
/// What the secret is derived for.
const PURPOSE: &str = "zero-leak/printed-pages/1";

/// Key and certificate of an installation.
pub struct PaperKey {
    key: SigningKey,
    certificate: Certificate,
}

impl std::fmt::Debug for PaperKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "PaperKey({})", self.certificate.tbs_certificate.subject)
    }
}

impl PaperKey {
    /// From the sealing key: the same each time. The certificate does not expire (its end is the year 9999, which RFC 5280 keeps for that).
    ///
    /// # Errors
    /// Never in practice: every name is well formed.
    pub fn of(sealing: &SealingKey) -> der::Result<Self> {
        // one in 2³² digests is no key; the next is
        let key = (0u32..).find_map(|n| SigningKey::from_slice(&sealing.derived(&format!("{PURPOSE}/{n}"))).ok());
        let key = key.unwrap_or_else(|| unreachable!("a digest that is a key is soon found"));
        let spki = SubjectPublicKeyInfoOwned::from_key(p256::PublicKey::from(key.verifying_key())).map_err(|_| der::ErrorKind::Failed)?;
        let spki_der = spki.to_der()?;
        let public = sealing.public();
        let bound = format!("{BOUND}{}:{}", public.to_hex(), sealing.sign(&spki_der));
        let name = Name::from_str(&format!("CN=Zero Leak installation {}", public.fingerprint().replace(' ', "")))?;
        let time = |y, mo, d, h, mi, s| {
            Ok::<_, der::Error>(Time::GeneralTime(GeneralizedTime::from_date_time(DateTime::new(y, mo, d, h, mi, s)?)))
        };
        let algorithm = AlgorithmIdentifierOwned { oid: ECDSA_SHA256, parameters: None };
        let extension =
            |extn_id, critical, value: Vec<u8>| Ok::<_, der::Error>(Extension { extn_id, critical, extn_value: OctetString::new(value)? });
        let uri = GeneralName::UniformResourceIdentifier(Ia5String::new(&bound)?);
        let mut serial = record::canonical::sha256(&spki_der)[..16].to_vec();
        serial[0] &= 0x7f;
        let tbs = TbsCertificate {
            version: Version::V3,
            serial_number: SerialNumber::new(&serial)?,
            signature: algorithm.clone(),
            issuer: name.clone(),
            validity: Validity {
                not_before: Time::UtcTime(der::asn1::UtcTime::from_unix_duration(Duration::from_secs(946_684_800))?),
                not_after: time(9999, 12, 31, 23, 59, 59)?,
            },
            subject: name,
            subject_public_key_info: spki,
            issuer_unique_id: None,
            subject_unique_id: None,
            extensions: Some(vec![
                extension(KEY_USAGE, true, KeyUsage(KeyUsages::DigitalSignature | KeyUsages::NonRepudiation).to_der()?)?,
                extension(SUBJECT_ALT_NAME, false, SubjectAltName(vec![uri]).to_der()?)?,
            ]),
        };
        let signature: Signature = key.sign(&tbs.to_der()?);
        let certificate = Certificate {
            tbs_certificate: tbs,
            signature_algorithm: algorithm,
            signature: BitString::from_bytes(signature.to_der().as_bytes())?,
        };
        Ok(Self { key, certificate })
    }

    /// The certificate, DER: what a reader of PDF is told to trust.
    ///
    /// # Errors
    /// Never in practice.
    pub fn certificate_der(&self) -> der::Result<Vec<u8>> {
        self.certificate.to_der()
    }

    pub(crate) const fn certificate(&self) -> &Certificate {
        &self.certificate
    }

    /// Signature of a message, DER.
    pub(crate) fn sign(&self, message: &[u8]) -> Vec<u8> {
        let signature: Signature = self.key.sign(message);
        signature.to_der().as_bytes().to_vec()
    }
}

/// The key of a certificate that says by which sealing key it was made, when it proves that.
pub(crate) fn proven(certificate: &Certificate) -> Option<(VerifyingKey, PublicKey)> {
    let tbs = &certificate.tbs_certificate;
    let spki = tbs.subject_public_key_info.to_der().ok()?;
    let names = tbs.extensions.iter().flatten().find(|e| e.extn_id == SUBJECT_ALT_NAME)?;
    let names = SubjectAltName::from_der(names.extn_value.as_bytes()).ok()?;
    let bound = names.0.iter().find_map(|n| match n {
        GeneralName::UniformResourceIdentifier(uri) => uri.as_str().strip_prefix(BOUND),
        _ => None,
    })?;
    let (public, signature) = bound.split_once(':')?;
    let sealing = PublicKey::from_hex(public)?;
    let key = VerifyingKey::from_sec1_bytes(tbs.subject_public_key_info.subject_public_key.as_bytes()?).ok()?;
    sealing.verifies(&spki, signature).then_some((key, sealing))
}
