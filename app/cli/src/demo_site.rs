//! Loads the invented site into an installation that is being set up, through its own API.

use demo::people::{DemoPerson, PEOPLE, password};
use pack::people::Role;
use server::demo_site::{DemoAccount, LoadsDemo};
use std::sync::{Arc, OnceLock};
use terms::Term;

/// Where this server answers, once it does.
#[derive(Debug, Clone, Default)]
pub struct DemoSite(Arc<OnceLock<u16>>);

impl DemoSite {
    /// Says on which port of loopback it answers.
    pub fn answers_on(&self, port: u16) {
        let _ = self.0.set(port);
    }
}

impl LoadsDemo for DemoSite {
    fn people(&self) -> Vec<(DemoAccount, Role)> {
        let secret = || record::key::SealingKey::from_bytes(rand::random()).public().to_hex();
        let of = PEOPLE.iter().filter_map(|(sign_in, role, does)| {
            let account = DemoAccount { sign_in: (*sign_in).to_owned(), password: password(&secret()), does: (*does).to_owned() };
            Some((account, Role::from_key(role).filter(|r| *r != Role::Administrator)?))
        });
        of.collect()
    }

    fn load(&self, people: Vec<DemoAccount>) {
        let Some(port) = self.0.get().copied() else { return };
        let of = |a: DemoAccount| {
            let role = PEOPLE.iter().find(|p| p.0 == a.sign_in).map_or("", |p| p.1).to_owned();
            DemoPerson { sign_in: a.sign_in, role, password: a.password, does: a.does }
        };
        let people: Vec<DemoPerson> = people.into_iter().map(of).collect();
        tokio::spawn(async move {
            if let Err(e) = demo::merrowick::load(&format!("http://127.0.0.1:{port}"), &people, None, &|_| ()).await {
                tracing::error!(error = %format!("{e:#}"), "the invented site was not loaded whole");
            }
        });
    }
}
