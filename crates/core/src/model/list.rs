//! A list that is cheap to copy: copies share their items until one of them is changed.
//!
//! A house is one value that is read by many at once; an edit makes the next value of it. With plain vectors each
//! edit would copy every code of the house. Here a copy of the list is one reference, and a change copies the
//! references and the items that it touches.
//!
//! A list that is asked often for items of an id keeps an index of them, until its next change: a computation asks
//! thousands of times, an edit a few times.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::fmt;
use std::ops::{Index, IndexMut};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, OnceLock};
use uuid::Uuid;

/// A list whose copies share their items.
pub struct List<T>(Arc<Items<T>>);

/// The items, and where each stands.
struct Items<T> {
    items: Vec<Arc<T>>,
    /// How often it was asked.
    asked: AtomicUsize,
    /// Places by id.
    by_id: OnceLock<FxHashMap<Uuid, usize>>,
    /// Places by what an item belongs to.
    by_owner: OnceLock<FxHashMap<(Uuid, Uuid), Vec<usize>>>,
}

impl<T> From<Vec<Arc<T>>> for Items<T> {
    fn from(items: Vec<Arc<T>>) -> Self {
        Self { items, asked: AtomicUsize::new(0), by_id: OnceLock::new(), by_owner: OnceLock::new() }
    }
}

// A copy is made to be changed: it has no use for the index.
impl<T> Clone for Items<T> {
    fn clone(&self) -> Self {
        self.items.clone().into()
    }
}

impl<T> Items<T> {
    /// To make an index costs as much as to look through the list some times: it is made once it was asked that often.
    fn asked_often(&self) -> bool {
        self.items.len() > FEW && self.asked.fetch_add(1, Ordering::Relaxed) >= OFTEN
    }
}

/// Up to so many items are always looked through one by one.
const FEW: usize = 16;

/// After so many questions there is an index.
const OFTEN: usize = 16;

/// An item that is found by its id.
pub trait Listed {
    /// Its id.
    fn listed_id(&self) -> Uuid;

    /// What it belongs to, where it is asked for by that: the device and function of a code.
    fn owner(&self) -> Option<(Uuid, Uuid)> {
        None
    }
}

fn by_owner<T: Listed>(items: &[Arc<T>]) -> FxHashMap<(Uuid, Uuid), Vec<usize>> {
    let mut index: FxHashMap<(Uuid, Uuid), Vec<usize>> = FxHashMap::default();
    for (at, item) in items.iter().enumerate() {
        if let Some(owner) = item.owner() {
            index.entry(owner).or_default().push(at);
        }
    }
    index
}

impl<T: Listed> List<T> {
    /// The item of this id.
    #[must_use]
    pub fn of_id(&self, id: Uuid) -> Option<&T> {
        if !self.0.asked_often() {
            return self.iter().find(|item| item.listed_id() == id);
        }
        let items = &self.0.items;
        let index = self.0.by_id.get_or_init(|| {
            // Of two with one id the first is meant, as in a list that is looked through.
            items.iter().enumerate().rev().map(|(at, item)| (item.listed_id(), at)).collect()
        });
        index.get(&id).map(|&at| &*items[at])
    }

    /// The items that belong to this, in their order.
    pub fn of_owner(&self, owner: (Uuid, Uuid)) -> impl Iterator<Item = &T> {
        let items = &self.0.items;
        let index = self.0.asked_often().then(|| self.0.by_owner.get_or_init(|| by_owner(items)));
        let indexed = index.and_then(|index| index.get(&owner)).into_iter().flatten().map(|&at| &*items[at]);
        let looked = index.is_none().then(|| self.iter().filter(move |item| item.owner() == Some(owner)));
        indexed.chain(looked.into_iter().flatten())
    }
}

impl<T> List<T> {
    /// An empty list.
    #[must_use]
    pub fn new() -> Self {
        Self(Arc::new(Vec::new().into()))
    }

    /// How many items there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.0.items.len()
    }

    /// Is there none?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.items.is_empty()
    }

    /// The item at a place.
    #[must_use]
    pub fn get(&self, index: usize) -> Option<&T> {
        self.0.items.get(index).map(Arc::as_ref)
    }

    /// The first item.
    #[must_use]
    pub fn first(&self) -> Option<&T> {
        self.get(0)
    }

    /// The last item.
    #[must_use]
    pub fn last(&self) -> Option<&T> {
        self.0.items.last().map(Arc::as_ref)
    }

    /// The items in their order.
    #[must_use]
    pub fn iter(&self) -> Iter<'_, T> {
        Iter(self.0.items.iter())
    }

    /// Takes every item out.
    pub fn clear(&mut self) {
        *self = Self::new();
    }

    /// Is it, item by item, the very same memory? A quick no is possible for equal lists; never a wrong yes.
    #[must_use]
    pub fn shares(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
            || (self.0.items.len() == other.0.items.len()
                && self.0.items.iter().zip(other.0.items.iter()).all(|(a, b)| Arc::ptr_eq(a, b)))
    }

    fn own(&mut self) -> &mut Vec<Arc<T>> {
        let kept = Arc::make_mut(&mut self.0);
        kept.by_id.take();
        kept.by_owner.take();
        *kept.asked.get_mut() = 0;
        &mut kept.items
    }

    /// Adds an item at the end.
    pub fn push(&mut self, item: T) {
        self.own().push(Arc::new(item));
    }

    /// Puts an item at a place; what stands there and after it moves on by one.
    pub fn insert(&mut self, index: usize, item: T) {
        self.own().insert(index, Arc::new(item));
    }

    /// Keeps the items for which `keep` holds.
    pub fn retain(&mut self, mut keep: impl FnMut(&T) -> bool) {
        if !self.iter().all(&mut keep) {
            self.own().retain(|item| keep(item));
        }
    }

    /// Sorts by a key; what is in order already is left as it is. Equal keys keep their order.
    pub fn sort_by_key<K: Ord>(&mut self, mut key: impl FnMut(&T) -> K) {
        if !self.0.items.is_sorted_by_key(|item| key(item)) {
            self.own().sort_by_key(|item| key(item));
        }
    }

    /// Swaps two items.
    pub fn swap(&mut self, a: usize, b: usize) {
        self.own().swap(a, b);
    }
}

impl<T: Clone> List<T> {
    /// The items, to be changed: each that is shared is copied first.
    pub fn iter_mut(&mut self) -> impl DoubleEndedIterator<Item = &mut T> {
        self.own().iter_mut().map(Arc::make_mut)
    }

    /// The last item, to be changed.
    pub fn last_mut(&mut self) -> Option<&mut T> {
        self.own().last_mut().map(Arc::make_mut)
    }

    /// The first item for which `is` holds, to be changed; no other is copied.
    pub fn find_mut(&mut self, is: impl FnMut(&T) -> bool) -> Option<&mut T> {
        let index = self.iter().position(is)?;
        self.own().get_mut(index).map(Arc::make_mut)
    }

    /// Takes an item out.
    pub fn remove(&mut self, index: usize) -> T {
        Arc::unwrap_or_clone(self.own().remove(index))
    }

    /// The items as a vector of their own.
    #[must_use]
    pub fn to_vec(&self) -> Vec<T> {
        self.iter().cloned().collect()
    }
}

/// The items of a [`List`].
pub struct Iter<'a, T>(std::slice::Iter<'a, Arc<T>>);

impl<T> Clone for Iter<'_, T> {
    fn clone(&self) -> Self {
        Self(self.0.clone())
    }
}

impl<'a, T> Iterator for Iter<'a, T> {
    type Item = &'a T;

    fn next(&mut self) -> Option<&'a T> {
        self.0.next().map(Arc::as_ref)
    }

    fn size_hint(&self) -> (usize, Option<usize>) {
        self.0.size_hint()
    }
}

impl<'a, T> DoubleEndedIterator for Iter<'a, T> {
    fn next_back(&mut self) -> Option<&'a T> {
        self.0.next_back().map(Arc::as_ref)
    }
}

impl<T> ExactSizeIterator for Iter<'_, T> {}

impl<'a, T> IntoIterator for &'a List<T> {
    type Item = &'a T;
    type IntoIter = Iter<'a, T>;

    fn into_iter(self) -> Iter<'a, T> {
        self.iter()
    }
}

impl<'a, T: Clone> IntoIterator for &'a mut List<T> {
    type Item = &'a mut T;
    type IntoIter = std::iter::Map<std::slice::IterMut<'a, Arc<T>>, fn(&'a mut Arc<T>) -> &'a mut T>;

    fn into_iter(self) -> Self::IntoIter {
        self.own().iter_mut().map(Arc::make_mut)
    }
}

impl<T> Index<usize> for List<T> {
    type Output = T;

    fn index(&self, index: usize) -> &T {
        &self.0.items[index]
    }
}

impl<T: Clone> IndexMut<usize> for List<T> {
    fn index_mut(&mut self, index: usize) -> &mut T {
        Arc::make_mut(&mut self.own()[index])
    }
}

impl<T> From<Vec<T>> for List<T> {
    fn from(items: Vec<T>) -> Self {
        items.into_iter().collect()
    }
}

impl<T> FromIterator<T> for List<T> {
    fn from_iter<I: IntoIterator<Item = T>>(items: I) -> Self {
        Self(Arc::new(items.into_iter().map(Arc::new).collect::<Vec<_>>().into()))
    }
}

impl<T> Extend<T> for List<T> {
    fn extend<I: IntoIterator<Item = T>>(&mut self, items: I) {
        self.own().extend(items.into_iter().map(Arc::new));
    }
}

impl<T> Clone for List<T> {
    fn clone(&self) -> Self {
        Self(Arc::clone(&self.0))
    }
}

impl<T> Default for List<T> {
    fn default() -> Self {
        Self::new()
    }
}

impl<T: PartialEq> PartialEq for List<T> {
    fn eq(&self, other: &Self) -> bool {
        self.shares(other) || self.iter().eq(other.iter())
    }
}

impl<T: Eq> Eq for List<T> {}

impl<T: fmt::Debug> fmt::Debug for List<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_list().entries(self.iter()).finish()
    }
}

impl<T: Serialize> Serialize for List<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.iter())
    }
}

impl<'de, T: Deserialize<'de>> Deserialize<'de> for List<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Vec::deserialize(deserializer).map(Self::from)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_copy_shares_every_item_until_one_is_changed() {
        let first: List<String> = ["a", "b", "c"].map(str::to_owned).to_vec().into();
        let mut second = first.clone();
        assert!(first.shares(&second));
        if let Some(item) = second.find_mut(|item| item == "b") {
            item.push('!');
        }
        assert_eq!((first[1].as_str(), second[1].as_str()), ("b", "b!"));
        assert!(Arc::ptr_eq(&first.0.items[0], &second.0.items[0]), "what was not touched is still shared");
        assert!(!first.shares(&second) && first != second);
    }

    #[test]
    fn what_is_in_order_is_not_copied_by_sorting() {
        let first: List<u32> = vec![1, 2, 3].into();
        let mut second = first.clone();
        second.sort_by_key(|item| *item);
        second.retain(|item| *item < 10);
        assert!(Arc::ptr_eq(&first.0, &second.0));
        second.sort_by_key(|item| std::cmp::Reverse(*item));
        assert_eq!(second.to_vec(), [3, 2, 1]);
    }

    impl Listed for (u128, u128) {
        fn listed_id(&self) -> Uuid {
            Uuid::from_u128(self.0)
        }

        fn owner(&self) -> Option<(Uuid, Uuid)> {
            Some((Uuid::from_u128(self.1), Uuid::nil()))
        }
    }

    #[test]
    fn an_item_is_found_by_its_id_and_by_its_owner_after_every_change() {
        let mut list: List<(u128, u128)> = (0..100).map(|n| (n, n % 7)).collect();
        let owned = |list: &List<(u128, u128)>, owner: u128| {
            list.of_owner((Uuid::from_u128(owner), Uuid::nil())).map(|item| item.0).collect::<Vec<_>>()
        };
        for _ in 0..2 * OFTEN {
            assert_eq!(list.of_id(Uuid::from_u128(42)), Some(&(42, 0)));
            assert_eq!(owned(&list, 6)[..3], [6, 13, 20]);
        }
        let before = list.clone();
        list.retain(|item| item.0 != 42 && item.0 != 13);
        list.push((200, 6));
        for _ in 0..2 * OFTEN {
            assert_eq!(list.of_id(Uuid::from_u128(42)), None);
            assert_eq!(list.of_id(Uuid::from_u128(200)), Some(&(200, 6)));
            assert_eq!(owned(&list, 6)[..2], [6, 20]);
        }
        assert_eq!(before.of_id(Uuid::from_u128(42)), Some(&(42, 0)), "a copy keeps what it had");
    }

    #[test]
    fn it_is_written_and_read_as_a_plain_list() {
        let list: List<u32> = vec![3, 1].into();
        let text = serde_json::to_string(&list).unwrap();
        assert_eq!(text, "[3,1]");
        assert_eq!(serde_json::from_str::<List<u32>>(&text).unwrap(), list);
    }
}
