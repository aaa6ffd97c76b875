use ferngate_model::Span;

/// Something in the map that cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct MapError {
    /// What is wrong: one sentence without a full stop.
    pub message: String,
    /// Where, in the map's bytes.
    pub span: Span,
    /// What to do.
    pub hint: Option<String>,
}

impl MapError {
    /// An error at `span`.
    pub fn new(span: Span, message: impl Into<String>) -> Self {
        Self { message: message.into(), span, hint: None }
    }

    /// With a way out.
    pub fn hint(mut self, hint: impl Into<String>) -> Self {
        self.hint = Some(hint.into());
        self
    }

    /// With the nearest right name, if one is near.
    pub fn suggest<'a>(self, wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Self {
        match nearest(wrong, right) {
            Some(name) => self.hint(format!("did you mean `{name}`?")),
            None => self,
        }
    }
}

/// The name among `right` that differs least from `wrong`, if by no more than a third of its letters.
pub fn nearest<'a>(wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let scored = right.into_iter().map(|name| (distance(wrong, name), name));
    let (least, name) = scored.min()?;
    (least <= wrong.chars().count().max(3) / 3).then_some(name)
}

/// How many letters must be added, removed, replaced or swapped with their neighbour (Damerau 1964).
fn distance(a: &str, b: &str) -> usize {
    let (a, b): (Vec<char>, Vec<char>) =
        (a.to_lowercase().chars().collect(), b.to_lowercase().chars().collect());
    let mut rows: Vec<Vec<usize>> = vec![(0..=b.len()).collect()];
    for i in 1..=a.len() {
        let mut row = vec![i; b.len() + 1];
        for j in 1..=b.len() {
            let same = usize::from(a[i - 1] != b[j - 1]);
            row[j] = (rows[i - 1][j] + 1).min(row[j - 1] + 1).min(rows[i - 1][j - 1] + same);
            if i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1] {
                row[j] = row[j].min(rows[i - 2][j - 2] + 1);
            }
        }
        rows.push(row);
    }
    rows[a.len()][b.len()]
}

#[cfg(test)]
mod tests {
    use super::nearest;

    #[test]
    fn suggests_only_what_is_near() {
        assert_eq!(nearest("glashouse", ["visits", "glasshouse"]), Some("glasshouse"));
        assert_eq!(nearest("viists", ["visits", "glasshouse"]), Some("visits"));
        assert_eq!(nearest("billing", ["visits", "glasshouse"]), None);
    }
}
