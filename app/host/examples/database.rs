//! Starts a MariaDB in the folder named, prints its owner's address, and stops it at the end of standard input.

use host::{database::Database, folder::Folder};

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    let folder = std::env::args().nth(1).unwrap_or_else(|| ".local/dev".to_owned());
    let database = Database::start(&Folder::open(folder.as_ref())?).await?;
    println!("{}\n{}", database.owner_url(), database.server_url());
    tokio::signal::ctrl_c().await?;
    database.stop().await
}
