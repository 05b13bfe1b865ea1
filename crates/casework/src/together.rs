//! Requests of one kind that arrive close upon each other, done together: what each alone would ask the database is asked once.

use std::collections::HashMap;
use std::hash::Hash;
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::{mpsc, oneshot};
use tokio::task::{Id, JoinSet};

/// Most that wait at once; more are not taken from their senders.
const MOST: usize = 256;
/// Most keys worked on at once.
const AT_ONCE: usize = 4;

/// Does items together that have a key in common. The first that comes is done at once; those that come meanwhile, and a pause
/// after, go next. It holds nothing but what somebody waits for.
#[derive(Debug)]
pub(crate) struct Together<K, I, O> {
    give: mpsc::Sender<Asked<K, I, O>>,
}

#[derive(Debug)]
struct Asked<K, I, O> {
    key: K,
    item: I,
    answer: oneshot::Sender<O>,
}

impl<K, I, O> Together<K, I, O>
where
    K: Clone + Eq + Hash + Send + 'static,
    I: Send + 'static,
    O: Send + 'static,
{
    /// With what is to be done: an answer for each item, in their order.
    pub(crate) fn new<F, D>(pause: Duration, f: F) -> Self
    where
        F: Fn(K, Vec<I>) -> D + Send + Sync + 'static,
        D: Future<Output = Vec<O>> + Send + 'static,
    {
        let (give, take) = mpsc::channel(1);
        tokio::spawn(run(take, pause, Arc::new(f)));
        Self { give }
    }

    /// Has an item done, and waits for its answer; none where whoever did it fell over it.
    pub(crate) async fn ask(&self, key: K, item: I) -> Option<O> {
        let (answer, answered) = oneshot::channel();
        self.give.send(Asked { key, item, answer }).await.ok()?;
        answered.await.ok()
    }
}

async fn run<K, I, O, F, D>(mut take: mpsc::Receiver<Asked<K, I, O>>, pause: Duration, f: Arc<F>)
where
    K: Clone + Eq + Hash + Send + 'static,
    I: Send + 'static,
    O: Send + 'static,
    F: Fn(K, Vec<I>) -> D + Send + Sync + 'static,
    D: Future<Output = Vec<O>> + Send + 'static,
{
    let mut waiting: HashMap<K, (Vec<I>, Vec<oneshot::Sender<O>>)> = HashMap::new();
    let mut at_work: HashMap<Id, K> = HashMap::new();
    let mut working = JoinSet::new();
    loop {
        let room = waiting.values().map(|(items, _)| items.len()).sum::<usize>() < MOST;
        tokio::select! {
            asked = take.recv(), if room => match asked {
                Some(Asked { key, item, answer }) => {
                    let (items, answers) = waiting.entry(key).or_default();
                    items.push(item);
                    answers.push(answer);
                }
                // Nobody can ask any more, and whoever waited is gone with them.
                None => break,
            },
            Some(done) = working.join_next_with_id() => {
                at_work.remove(&done.map_or_else(|e| e.id(), |(id, ())| id));
            }
        }
        let free = |key: &&K| at_work.values().all(|k| k != *key);
        let next: Vec<K> = waiting.keys().filter(free).take(AT_ONCE - at_work.len()).cloned().collect();
        for key in next {
            let Some((items, answers)) = waiting.remove(&key) else { continue };
            let (f, of) = (f.clone(), key.clone());
            let task = working.spawn(async move {
                for (answer, said) in answers.into_iter().zip(f(of, items).await) {
                    // Whoever asked may have gone.
                    let _ = answer.send(said);
                }
                tokio::time::sleep(pause).await;
            });
            at_work.insert(task.id(), key);
        }
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test")]
mod tests {
    use super::*;
    use futures_util::future::join_all;
    use tokio::sync::Semaphore;

    #[tokio::test]
    async fn what_comes_while_others_are_done_goes_together_and_each_gets_its_own_answer() {
        let (gate, sizes) = (Arc::new(Semaphore::new(0)), Arc::new(std::sync::Mutex::new(Vec::new())));
        let (held, seen) = (gate.clone(), sizes.clone());
        let together = Together::new(Duration::ZERO, move |key: &'static str, items: Vec<u32>| {
            let (held, seen) = (held.clone(), seen.clone());
            async move {
                assert!(key != "falls", "on purpose");
                seen.lock().unwrap().push((key, items.len()));
                if key == "slow" {
                    held.acquire().await.unwrap().forget();
                }
                items.into_iter().map(|i| i * 10).collect()
            }
        });
        let many = async {
            // The first goes alone; all others come while it is held up.
            join_all((0..20).map(|i| together.ask("slow", i))).await
        };
        let beside = async {
            assert_eq!(together.ask("quick", 7).await, Some(70), "another key does not wait");
            assert_eq!(together.ask("falls", 1).await, None);
            assert_eq!(together.ask("quick", 8).await, Some(80), "nor for one that fell over");
            gate.add_permits(2);
        };
        let (answers, ()) = tokio::join!(many, beside);
        assert_eq!(answers, (0..20).map(|i| Some(i * 10)).collect::<Vec<_>>());
        let slow: Vec<usize> = sizes.lock().unwrap().iter().filter(|(k, _)| *k == "slow").map(|(_, n)| *n).collect();
        assert_eq!(slow, [1, 19]);
    }
}
