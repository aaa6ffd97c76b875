//! What writing to disk comes down to: few operations, each of which leaves either the old or the new state.

#[cfg(test)]
use std::cell::Cell;
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

use serde::{Deserialize, Serialize};

/// What a file has besides its bytes.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub struct Attributes {
    /// Permission bits; 0 where the system has none.
    mode: u32,
    /// Time of the last change, in nanoseconds since 1970.
    modified: u64,
}

impl Attributes {
    /// Those of the file at `path`.
    pub fn of(path: &Path) -> io::Result<Self> {
        let found = fs::metadata(path)?;
        let since = found.modified()?.duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        Ok(Self { mode: mode(&found), modified: since.as_nanos() as u64 })
    }

    /// The same for a file that is changed now.
    pub fn changed_now(self) -> Self {
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        Self { modified: now.as_nanos() as u64, ..self }
    }
}

#[cfg(unix)]
fn mode(found: &fs::Metadata) -> u32 {
    std::os::unix::fs::PermissionsExt::mode(&found.permissions())
}

#[cfg(not(unix))]
fn mode(_: &fs::Metadata) -> u32 {
    0
}

#[cfg(unix)]
fn set_mode(file: &fs::File, mode: u32) -> io::Result<()> {
    file.set_permissions(std::os::unix::fs::PermissionsExt::from_mode(mode))
}

#[cfg(not(unix))]
fn set_mode(_: &fs::File, _: u32) -> io::Result<()> {
    Ok(())
}

/// Where the new bytes of `path` are written before they take its place.
pub fn beside(path: &Path) -> PathBuf {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    path.with_file_name(format!(".{name}.ferngate"))
}

/// The disk. In tests it can fail for good after a number of operations, as a machine does that loses power.
#[derive(Debug, Default)]
pub struct Disk {
    #[cfg(test)]
    left: Option<Cell<usize>>,
}

impl Disk {
    /// One that fails from its `operations`-th operation on.
    #[cfg(test)]
    pub fn failing_after(operations: usize) -> Self {
        Self { left: Some(Cell::new(operations)) }
    }

    #[cfg(test)]
    fn operation(&self) -> io::Result<()> {
        match self.left.as_ref().map(Cell::get) {
            Some(0) => Err(io::Error::other("the power is gone")),
            Some(left) => {
                if let Some(cell) = &self.left {
                    cell.set(left - 1);
                }
                Ok(())
            }
            None => Ok(()),
        }
    }

    #[cfg(not(test))]
    fn operation(&self) -> io::Result<()> {
        Ok(())
    }

    /// Makes a folder and those around it.
    pub fn make_folders(&self, path: &Path) -> io::Result<()> {
        self.operation()?;
        fs::create_dir_all(path)
    }

    /// Gives a file another path.
    pub fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.operation()?;
        fs::rename(from, to)
    }

    /// Copies a file.
    pub fn copy(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.operation()?;
        fs::copy(from, to).map(drop)
    }

    /// Removes a file.
    pub fn remove(&self, path: &Path) -> io::Result<()> {
        self.operation()?;
        fs::remove_file(path)
    }

    /// Removes an empty folder.
    pub fn remove_folder(&self, path: &Path) -> io::Result<()> {
        self.operation()?;
        fs::remove_dir(path)
    }

    /// Writes beside `path` and renames, so that either the old or the new bytes are there.
    pub fn replace(&self, path: &Path, bytes: &[u8], attributes: Option<Attributes>) -> io::Result<()> {
        let beside = beside(path);
        let outcome = (|| {
            self.operation()?;
            let mut file = fs::File::create(&beside)?;
            file.write_all(bytes)?;
            if let Some(attributes) = attributes {
                set_mode(&file, attributes.mode)?;
                file.set_modified(SystemTime::UNIX_EPOCH + Duration::from_nanos(attributes.modified))?;
            }
            file.sync_data()?;
            self.operation()?;
            fs::rename(&beside, path)
        })();
        // Who has lost power cannot tidy up either.
        if outcome.is_err() && self.operation().is_ok() {
            let _ = fs::remove_file(&beside);
        }
        outcome
    }
}
