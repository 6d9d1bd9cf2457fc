<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Text\Quantity;

/**
 * Finds the order of rows that lets the workload skip most, by sorting a sample each way and measuring.
 */
final class ClusteringAdvisor
{
    /**
     * @var array{TableLayout, Sample, list<array{clustering: Clustering, share: float}>}|null what finest() gave last,
     *     since a rule asks for the ratio and then for the advice
     */
    private ?array $last = null;

    private const CANDIDATES = 3;

    /** Orders are compared by what the workload asks most, on part of the sample; what is found is measured on all of it. */
    private const ASKED = 200;

    private const ROWS = 8_000;

    private const LEAST_ROWS = 12;

    /** Rows of the modelled cluster below which a chunk is not worth its file. */
    private const LEAST_CHUNK = 2_000_000;

    private const CURVE_HANDICAP = 1.05;

    /** A better order has to read at least this much less to be worth a rewrite. */
    private const WORTH = 0.8;

    public function __construct(private readonly Estate $estate)
    {
    }

    /**
     * What the workload asks of a table, one entry for each set of predicates; weighted by what its columns would cost
     * to read whole.
     *
     * @return list<array{weight: float, predicates: list<Predicate>}>
     */
    public function asked(TableLayout $table): array
    {
        $model = $this->estate->reads($table);
        $asked = [];
        foreach ($this->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                if ($use->table !== $table->name || $use->columns === []) {
                    continue;
                }
                $key = implode('&', array_map(static fn (Predicate $p): string => $p->signature, $use->predicates));
                $asked[$key] ??= ['weight' => 0.0, 'predicates' => $use->predicates];
                $asked[$key]['weight'] += $statement->executions * $model->bytes($use, 1.0);
            }
        }

        return array_values($asked);
    }

    /**
     * @param  list<array{weight: float, predicates: list<Predicate>}>  $asked
     * @return list<string> columns bounds can be held against
     */
    private static function known(array $asked): array
    {
        $known = [];
        foreach ($asked as $one) {
            foreach ($one['predicates'] as $predicate) {
                $known[$predicate->column] = $predicate->column;
            }
        }

        return array_values($known);
    }

    /**
     * @param  list<array{weight: float, predicates: list<Predicate>}>  $asked
     * @return list<array{weight: float, predicates: list<Predicate>}>
     */
    public static function heaviest(array $asked): array
    {
        usort($asked, static fn (array $a, array $b): int => $b['weight'] <=> $a['weight']);

        return array_slice($asked, 0, self::ASKED);
    }

    /**
     * Every order tried, best first.
     *
     * @return list<array{clustering: Clustering, share: float}>
     */
    public function tried(TableLayout $table, Sample $sample, ?TableDefinition $definition = null): array
    {
        $definition ??= $table->definition;
        $asked = self::heaviest($this->asked($table));
        $sample = $sample->thinned(self::ROWS);
        $weights = [];
        foreach ($asked as $one) {
            foreach ($one['predicates'] as $predicate) {
                if ($predicate->known) {
                    $weights[$predicate->column] = ($weights[$predicate->column] ?? 0.0) + $one['weight'];
                }
            }
        }
        arsort($weights);
        $columns = array_slice(array_map(strval(...), array_keys($weights)), 0, self::CANDIDATES);
        $orders = [new Clustering($definition->clustering, $definition->curve)];
        foreach ($columns as $a) {
            $orders[] = new Clustering([$a]);
            foreach ($columns as $b) {
                if ($a !== $b) {
                    $orders[] = new Clustering([$a, $b]);
                    if ($a < $b) {
                        $orders[] = new Clustering([$a, $b], Clustering::Z_ORDER);
                        $orders[] = new Clustering([$a, $b], Clustering::HILBERT);
                    }
                }
            }
        }
        $known = self::known($asked);
        $tried = [];
        foreach ($orders as $order) {
            $tried[$order->describe()] ??= [
                'clustering' => $order,
                'share' => LayoutTrial::share(
                    LayoutTrial::index($sample, $definition->laidOut(clustering: $order), $table->nodes, $known),
                    $asked,
                ),
            ];
        }
        $tried = array_values($tried);
        // Of orders that do as well within a few percent, one after the other is simpler to keep up than a curve.
        usort(
            $tried,
            static fn (array $a, array $b): int =>
                self::score($a['clustering'], $a['share']) <=> self::score($b['clustering'], $b['share']),
        );

        return $tried;
    }

    /** What the best order would read over what the present one would, both in chunks of the same size. */
    public function ratio(TableLayout $table, Sample $sample): float
    {
        $tried = $this->finest($table, $sample);
        foreach ($tried as $one) {
            if ($one['clustering']->describe() === $table->definition->clustering()->describe()) {
                return $one['share'] > 0 ? $tried[0]['share'] / $one['share'] : 1.0;
            }
        }

        return 1.0;
    }

    /**
     * @throws ParquetError
     */
    public function advise(TableLayout $table, Sample $sample): ?Advice
    {
        $asked = $this->asked($table);
        if ($asked === [] || $sample->rows() < 2) {
            return null;
        }
        $tried = $this->finest($table, $sample);
        $known = self::known($asked);
        $heaviest = self::heaviest($asked);
        $few = $sample->thinned(self::ROWS);
        $definition = $table->definition;
        $found = ['clustering' => $definition->clustering(), 'share' => INF];
        // Smaller chunks let more be skipped, down to what is still read well in one go; each step has to pay.
        foreach ([$table->definition->chunkRows, ...$this->sizes($table, $sample)] as $chunkRows) {
            foreach (array_slice($tried, 0, 3) as $one) {
                $candidate = $table->definition->laidOut(clustering: $one['clustering'], chunkRows: $chunkRows);
                $share = LayoutTrial::share(LayoutTrial::index($few, $candidate, $table->nodes, $known), $heaviest);
                if (
                    self::score($one['clustering'], $share) <
                    self::score($found['clustering'], $found['share']) * ($chunkRows === $definition->chunkRows ? 1.0 : 0.85)
                ) {
                    $definition = $candidate;
                    $found = ['clustering' => $one['clustering'], 'share' => $share];
                }
            }
        }
        $chunkRows = $definition->chunkRows;
        $found['share'] = LayoutTrial::share(LayoutTrial::index($sample, $definition, $table->nodes, $known), $asked);
        $before = LayoutTrial::share($this->estate->reads($table)->index(), $asked);
        $gain = $this->gain($table, $sample, $definition);
        $order = $found['clustering'];

        return new Advice(
            'clustering',
            'Sort '.$table->name.' by '.$order->describe()." in chunks of {$chunkRows} rows",
            [
                ['the workload reads now', Quantity::percent($before).' of the bytes'],
                [
                    'it would read',
                    Quantity::percent($found['share']).
                    ' after sorting, '.
                    ($table->engine === 'files'
                        ? 'estimated from bounds'
                        : 'measured on a sample of '.Quantity::count($sample->rows()).' rows'),
                ],
                [
                    'bytes a row when sorted',
                    $table->engine === 'files'
                        ? 'not known from footers'
                        : Quantity::percent($gain['packing']).' of now, measured by writing part of the sample',
                ],
                ...array_map(
                    static fn (array $one): array => ['by '.$one['clustering']->describe(), Quantity::percent($one['share'])],
                    array_slice($tried, 0, 6),
                ),
            ],
            $gain['bytes'],
            $gain['us'],
            (float) $table->bytes() * $table->rowFactor,
            $this->estate->reads($table)->rewriteUs($table->bytes()),
            [...$gain['worse'], 'Rows that arrive later are not in this order until the next maintenance.'],
            $definition,
            [],
            $gain['us'] > LayoutModel::SURE * $gain['nowUs'] && self::WORTH * $before > $found['share'] * $gain['packing'],
        );
    }

    /**
     * What a layout saves the workload a week, with the statements that would read more.
     *
     * @return array{bytes: float, us: float, nowUs: float, packing: float, worse: list<string>} nowUs is what all of it takes now
     *
     * @throws ParquetError
     */
    public function gain(TableLayout $table, Sample $sample, TableDefinition $definition, float $mostPacking = INF): array
    {
        $model = $this->estate->model($table, $sample);
        [$now, $then] = [$model->now(), $model->anew($definition, $mostPacking)];
        $worse = [];
        foreach ($this->estate->workload->statements as $statement) {
            $before = $now->eachBytes[$statement->id] ?? 0.0;
            $more = ($then->eachBytes[$statement->id] ?? 0.0) - $before;
            if ($more > 0.1 * max(1.0, $before)) {
                $worse[$statement->id] = $statement->executions * $more * $table->rowFactor;
            }
        }
        arsort($worse);

        return [
            'bytes' => ($now->bytes - $then->bytes) * $table->rowFactor,
            'us' => $now->us - $then->us,
            'nowUs' => $now->us,
            'packing' => $then->packing,
            'worse' => array_map(
                static fn (string $id): string => 'Statement '.
                    substr($id, 0, 8).
                    ' would read '.
                    Quantity::bytes($worse[$id]).
                    ' a week more.',
                array_slice(array_map(strval(...), array_keys($worse)), 0, 3),
            ),
        ];
    }

    private static function score(Clustering $order, float $share): float
    {
        return $share * ($order->curve === '' ? 1.0 : self::CURVE_HANDICAP);
    }

    /**
     * Orders differ most in small chunks, so they are compared there.
     *
     * @return list<array{clustering: Clustering, share: float}>
     */
    private function finest(TableLayout $table, Sample $sample): array
    {
        if ($this->last === null || $this->last[0] !== $table || $this->last[1] !== $sample) {
            $sizes = $this->sizes($table, $sample);
            $this->last = [
                $table,
                $sample,
                $this->tried($table, $sample, $sizes === [] ? null : $table->definition->laidOut(chunkRows: $sizes[count($sizes) - 1])),
            ];
        }

        return $this->last[2];
    }

    /**
     * @return list<int>
     */
    private function sizes(TableLayout $table, Sample $sample): array
    {
        $sizes = [];
        foreach ($table->targetBytes === null ? [2, 4, 8] : [] as $part) {
            $rows = intdiv($table->definition->chunkRows, $part);
            // Chunks of a handful of the sample's rows would tell of the sample, not of the table.
            if (
                $rows * $table->rowFactor >= self::LEAST_CHUNK &&
                $rows * min(self::ROWS, $sample->rows()) >= self::LEAST_ROWS * $sample->of
            ) {
                $sizes[] = $rows;
            }
        }

        return $sizes;
    }
}
