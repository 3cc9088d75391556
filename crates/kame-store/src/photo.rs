//! Photographs, kept by their hash in a folder beside the database.

use crate::error::kept;
use crate::{Store, StoreError};
use kame_core::problem::Problem;
use kame_core::record::not_a_hash;
use sha2::{Digest, Sha256};
use std::io::{Cursor, Write};
use std::path::PathBuf;

/// The largest photograph that is kept, bytes. A phone makes them smaller before it sends them.
pub const LARGEST_PHOTO: usize = 8 * 1024 * 1024;
/// The most pixels of one.
pub const MOST_PIXELS: usize = 50_000_000;

/// Whether a photograph may say where it was taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Position {
    /// It is refused where it does.
    Without,
    /// It was wanted.
    Kept,
}

/// SHA-256 of bytes, in hexadecimal digits.
pub fn hash_of(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

/// Width and height of a photograph, pixels.
pub fn photo_size(bytes: &[u8]) -> Option<[usize; 2]> {
    imagesize::blob_size(bytes).ok().map(|s| [s.width, s.height])
}

/// Why bytes are not kept as a photograph.
pub fn not_a_photo(bytes: &[u8], position: Position) -> Option<String> {
    if bytes.len() > LARGEST_PHOTO {
        let (found, most) = (bytes.len() >> 20, LARGEST_PHOTO >> 20);
        return Some(format!("found {found} MB, expected at most {most} MB: make it smaller before it is sent"));
    }
    let kind = imagesize::image_type(bytes);
    if !matches!(kind, Ok(imagesize::ImageType::Jpeg | imagesize::ImageType::Png | imagesize::ImageType::Webp)) {
        return Some("found no photograph, expected a JPEG, PNG or WebP".into());
    }
    let size = match imagesize::blob_size(bytes) {
        Ok(size) => size,
        Err(e) => return Some(format!("found a photograph that is cut off or damaged ({e}): take it again")),
    };
    if size.width == 0 || size.height == 0 || size.width.saturating_mul(size.height) > MOST_PIXELS {
        return Some(format!(
            "found {} × {} pixels, expected at most {MOST_PIXELS} in all: make it smaller before it is sent",
            size.width, size.height
        ));
    }
    let says_where = || {
        exif::Reader::new()
            .read_from_container(&mut Cursor::new(bytes))
            .is_ok_and(|e| e.fields().any(|f| f.tag.context() == exif::Context::Gps))
    };
    (position == Position::Without && says_where())
        .then(|| "says where it was taken: take that out, or send it with position=kept if it is wanted".into())
}

impl Store {
    /// Where a photograph is kept.
    fn photo_file(&self, hash: &str) -> PathBuf {
        self.photos.join(&hash[..2]).join(hash)
    }

    /// Keeps a photograph under its hash. It is on the disk for good when this returns; one that is there already stays as it is.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what is no photograph or has another hash; [`StoreError::Full`]; what the file system says.
    pub fn keep_photo(&self, hash: &str, bytes: &[u8], position: Position) -> Result<(), StoreError> {
        let refuse = |why: String| Err(StoreError::Refused(vec![Problem::new("$.photo", why)]));
        if let Some(why) = not_a_hash(hash).or_else(|| not_a_photo(bytes, position)) {
            return refuse(why);
        }
        let found = hash_of(bytes);
        if found != hash {
            return refuse(format!(
                "its hash is {found}, not {hash}: it was changed or cut off on the way; send it again"
            ));
        }
        let file = self.photo_file(hash);
        if self.photo(hash)?.is_some_and(|there| there == bytes) {
            return Ok(());
        }
        let why = kept(&file);
        let folder = file.parent().unwrap_or(&self.photos);
        make_folder(folder).map_err(&why)?;
        // Written beside and moved: who reads it finds all of it or nothing.
        let mut beside = tempfile::NamedTempFile::new_in(folder).map_err(&why)?;
        beside.write_all(bytes).map_err(&why)?;
        beside.as_file().sync_all().map_err(&why)?;
        beside.persist(&file).map_err(|e| why(e.error))?;
        for folder in [folder, &self.photos] {
            std::fs::File::open(folder).and_then(|f| f.sync_all()).map_err(&why)?;
        }
        Ok(())
    }

    /// A photograph by its hash, as it lies there; `None` where there is none.
    ///
    /// # Errors
    /// What the file system says.
    pub fn photo(&self, hash: &str) -> Result<Option<Vec<u8>>, StoreError> {
        if not_a_hash(hash).is_some() {
            return Ok(None);
        }
        let file = self.photo_file(hash);
        match std::fs::read(&file) {
            Ok(bytes) => Ok(Some(bytes)),
            Err(e) if e.kind() == std::io::ErrorKind::NotFound => Ok(None),
            Err(e) => Err(kept(&file)(e)),
        }
    }

    /// True where a photograph of that hash is kept.
    pub(crate) fn has_photo(&self, hash: &str) -> bool {
        not_a_hash(hash).is_none() && self.photo_file(hash).is_file()
    }
}

/// Makes a folder, which its owner alone may look into.
fn make_folder(folder: &std::path::Path) -> std::io::Result<()> {
    let mut make = std::fs::DirBuilder::new();
    make.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut make, 0o700);
    make.create(folder)
}
