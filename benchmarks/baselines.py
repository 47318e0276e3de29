"""Generic baselines: what general-purpose parts reach on the same records, each at its best threshold.

One compares TF-IDF vectors of letter trigrams with their nearest neighbours, the other joins on the trigram similarity of
the database. Both get all the text of a record, folded; both are given the threshold that does best against the truth,
which no real user could know.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import psycopg
from scipy import sparse
from scipy.sparse.csgraph import connected_components

from oddpair.core.evaluation import Figures, cluster_figures
from oddpair.core.records import RecordSet
from oddpair.core.text.folding import fold

_ROWS_AT_ONCE = 2000
_LEAST_SIMILARITY = 0.3
Pairs = tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.float64]]


@dataclass(frozen=True, slots=True)
class BaselineOutcome:
    """The clusters a baseline makes at its best threshold."""

    threshold: float
    pairwise: Figures
    labels: tuple[int, ...]


def texts_of(records: RecordSet) -> list[str]:
    """Return all delivered text of every record in one folded line, the date of its last change left out."""
    names = [name for name in records.columns if name != "updated_on"]
    return [" ".join(fold(text) for name in names if (text := records.column(name).at(r))) for r in range(len(records))]


def tfidf_pairs(texts: Sequence[str]) -> Pairs:
    """Return pairs of texts whose trigram TF-IDF vectors have a cosine of at least 0.3."""
    numbers: dict[str, int] = {}
    rows, columns = [], []
    for row, text in enumerate(texts):
        padded = f" {text} "
        grams = [numbers.setdefault(padded[at : at + 3], len(numbers)) for at in range(len(padded) - 2)]
        rows += [row] * len(grams)
        columns += grams
    counts = sparse.csr_array((np.ones(len(rows), dtype=np.float32), (rows, columns)), shape=(len(texts), len(numbers)))
    counts.sum_duplicates()
    documents = np.bincount(counts.indices, minlength=len(numbers))
    weighted = counts.multiply(np.log((1 + len(texts)) / (1 + documents)) + 1).tocsr().astype(np.float32)
    lengths = np.sqrt(np.asarray(weighted.multiply(weighted).sum(axis=1))).ravel()
    vectors = (sparse.diags_array((1 / np.maximum(lengths, 1e-9)).astype(np.float32)) @ weighted).tocsr()
    other = vectors.T.tocsr()
    left, right, values = [], [], []
    for start in range(0, len(texts), _ROWS_AT_ONCE):
        product = (vectors[start : start + _ROWS_AT_ONCE] @ other).tocoo()
        keep = (product.data >= _LEAST_SIMILARITY) & (product.row + start < product.col)
        left.append(product.row[keep].astype(np.int64) + start)
        right.append(product.col[keep].astype(np.int64))
        values.append(product.data[keep].astype(np.float64))
    return np.concatenate(left), np.concatenate(right), np.concatenate(values)


def database_pairs(texts: Sequence[str], dsn: str) -> Pairs:
    """Return pairs of texts that the database's trigram similarity puts at 0.3 or more."""
    with psycopg.connect(dsn) as connection, connection.cursor() as cursor:
        cursor.execute("CREATE EXTENSION IF NOT EXISTS pg_trgm")
        cursor.execute("CREATE TEMP TABLE texts (id int, text text)")
        with cursor.copy("COPY texts FROM STDIN") as copy:
            for number, text in enumerate(texts):
                copy.write_row((number, text))
        cursor.execute("CREATE INDEX ON texts USING gin (text gin_trgm_ops)")
        cursor.execute(f"SET pg_trgm.similarity_threshold = {_LEAST_SIMILARITY}")
        cursor.execute(
            "SELECT a.id, b.id, similarity(a.text, b.text) FROM texts a JOIN texts b ON a.text % b.text AND a.id < b.id"
        )
        found = np.array(cursor.fetchall(), dtype=np.float64).reshape(-1, 3)
    return found[:, 0].astype(np.int64), found[:, 1].astype(np.int64), found[:, 2]


def best_clusters(pairs: Pairs, truth: Sequence[str]) -> BaselineOutcome:
    """Return the connected components at the threshold with the highest pairwise F1."""
    left, right, values = pairs
    outcomes = []
    for threshold in np.arange(_LEAST_SIMILARITY, 0.96, 0.02):
        keep = values >= threshold
        graph = sparse.coo_array((np.ones(int(keep.sum())), (left[keep], right[keep])), shape=(len(truth), len(truth)))
        labels = connected_components(graph, directed=False)[1].tolist()
        outcomes.append(BaselineOutcome(float(threshold), cluster_figures(labels, truth)[0], tuple(labels)))
    return max(outcomes, key=lambda outcome: outcome.pairwise.f1)
