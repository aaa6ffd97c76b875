//! Which nodes of a graph reach each other.

/// The strongly connected components of a graph, each after those that it reaches (Tarjan 1972, "Depth-first search
/// and linear graph algorithms", with an explicit stack). Linear in nodes and edges.
pub fn components(adjacency: &[Vec<usize>]) -> Vec<Vec<usize>> {
    const UNSEEN: usize = usize::MAX;
    let count = adjacency.len();
    let (mut index, mut low) = (vec![UNSEEN; count], vec![0usize; count]);
    let (mut on_stack, mut stack, mut found) = (vec![false; count], Vec::new(), Vec::new());
    let mut next_index = 0;
    for start in 0..count {
        if index[start] != UNSEEN {
            continue;
        }
        let mut work: Vec<(usize, usize)> = vec![(start, 0)];
        while let Some(&mut (node, ref mut edge)) = work.last_mut() {
            if *edge == 0 && index[node] == UNSEEN {
                (index[node], low[node]) = (next_index, next_index);
                next_index += 1;
                stack.push(node);
                on_stack[node] = true;
            }
            if let Some(&to) = adjacency[node].get(*edge) {
                *edge += 1;
                if index[to] == UNSEEN {
                    work.push((to, 0));
                } else if on_stack[to] {
                    low[node] = low[node].min(index[to]);
                }
                continue;
            }
            work.pop();
            if let Some(&(above, _)) = work.last() {
                low[above] = low[above].min(low[node]);
            }
            if low[node] == index[node] {
                let mut members = Vec::new();
                while let Some(member) = stack.pop() {
                    on_stack[member] = false;
                    members.push(member);
                    if member == node {
                        break;
                    }
                }
                members.sort_unstable();
                found.push(members);
            }
        }
    }
    found
}
