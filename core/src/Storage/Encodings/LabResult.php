<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

/**
 * What the trials of one sample gave.
 */
final readonly class LabResult
{
    /** Two-sided 95% quantiles of Student's t by degrees of freedom. */
    private const T = [1 => 12.71, 4.3, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26, 2.23, 2.2, 2.18];

    public const PLAIN = 'plain';

    public const USUAL = 'as suits the values';

    public const SMALLEST = 'smallest a column';

    public const FASTEST = 'fastest a column';

    /**
     * @param  list<int>  $rows of each place that were stored
     * @param  array<string, list<string>>  $orders name => columns
     * @param  array<string, array{distinct: int, run: float}>  $facts by column
     * @param  list<EncodingTrial>  $trials
     */
    public function __construct(public array $rows, public array $orders, public array $facts, public array $trials)
    {
    }

    /**
     * Trials put together to whole rows.
     *
     * @param  array<string, float>  $asked share of executions that ask for each column
     * @return list<Variant>
     */
    public function variants(array $asked): array
    {
        $byPlace = $variants = [];
        foreach ($this->trials as $trial) {
            $byPlace["{$trial->order}|{$trial->compression}"][$trial->column][$trial->encoding] = $trial;
        }
        foreach ($byPlace as $key => $columns) {
            [$order, $compression] = explode('|', $key);
            if (isset($columns[''][Variant::ROWS])) {
                $rows = $columns[''][Variant::ROWS];
                $variants[] = $this->variant(Variant::ROWS, $compression, $order, [$rows], [], null);
            }
            unset($columns['']);
            if ($columns === []) {
                continue;
            }
            $names = array_unique(
                array_merge(
                    ...array_values(array_map(static fn (array $list): array => array_map(strval(...), array_keys($list)), $columns)),
                ),
            );
            foreach ($names as $name) {
                // What does not suit a column is written plain, as the writer does it.
                $chosen = array_map(static fn (array $list): EncodingTrial => $list[$name] ?? $list[self::PLAIN], $columns);
                $variants[] = $this->variant(
                    $name === '' ? self::USUAL : str_replace('_', ' ', $name),
                    $compression,
                    $order,
                    array_values($chosen),
                    $asked,
                    $name,
                );
            }
            foreach ([self::SMALLEST, self::FASTEST] as $policy) {
                $chosen = array_map(static function (array $list) use ($policy): EncodingTrial {
                    usort(
                        $list,
                        static fn (EncodingTrial $a, EncodingTrial $b): int => $policy === self::SMALLEST
                            ? [$a->sum(), $a->readNs] <=> [$b->sum(), $b->readNs]
                            : [$a->readNs, $a->sum()] <=> [$b->readNs, $b->sum()],
                    );

                    return $list[0];
                }, $columns);
                $variants[] = $this->variant($policy, $compression, $order, array_values($chosen), $asked, null);
            }
        }

        return $variants;
    }

    /**
     * Variants nothing else beats in both size and time to read what is asked for, smallest first.
     *
     * @param  list<Variant>  $variants
     * @return list<Variant>
     */
    public static function front(array $variants): array
    {
        usort($variants, static fn (Variant $a, Variant $b): int =>
            [$a->bytesPerRow, $a->readWorkNs] <=> [$b->bytesPerRow, $b->readWorkNs]);
        $front = [];
        $fastest = INF;
        foreach ($variants as $variant) {
            if ($variant->readWorkNs < $fastest) {
                $front[] = $variant;
                $fastest = $variant->readWorkNs;
            }
        }

        return $front;
    }

    public function sampledRows(): int
    {
        return array_sum($this->rows);
    }

    /**
     * @return array{rows: list<int>, orders: array<string, list<string>>, facts: array<string, array{distinct: int, run: float}>,
     *     trials: list<array<string, mixed>>}
     */
    public function toArray(): array
    {
        return [
            'rows' => $this->rows,
            'orders' => $this->orders,
            'facts' => $this->facts,
            'trials' => array_map(static fn (EncodingTrial $trial): array => $trial->toArray(), $this->trials),
        ];
    }

    /**
     * @param  array{
     *     rows: list<int>,
     *     orders: array<string, list<string>>,
     *     facts: array<string, array{distinct: int, run: float|int}>,
     *     trials: list<array{
     *         column: string,
     *         encoding: string,
     *         compression: string,
     *         order: string,
     *         bytes: list<int>,
     *         writeNs: int,
     *         readNs: int
     *     }>
     * }  $values
     */
    public static function fromArray(array $values): self
    {
        return new self(
            $values['rows'],
            $values['orders'],
            array_map(static fn (array $one): array => ['distinct' => $one['distinct'], 'run' => (float) $one['run']], $values['facts']),
            array_map(static fn (array $one): EncodingTrial => new EncodingTrial(...$one), $values['trials']),
        );
    }

    /**
     * @param  list<EncodingTrial>  $trials one a column, or one of whole rows
     * @param  array<string, float>  $asked
     */
    private function variant(string $policy, string $compression, string $order, array $trials, array $asked, ?string $encoding): Variant
    {
        $rows = max(1, $this->sampledRows());
        $bytes = array_fill(0, count($this->rows), 0);
        [$write, $read, $work] = [0, 0, 0.0];
        $encodings = [];
        foreach ($trials as $trial) {
            foreach ($trial->bytes as $place => $size) {
                $bytes[$place] += $size;
            }
            $write += $trial->writeNs;
            $read += $trial->readNs;
            // Row by row, whoever wants one column reads all.
            $work += $trial->readNs * ($trial->column === '' || $asked === [] ? 1.0 : $asked[$trial->column] ?? 0.0);
            if ($trial->column !== '') {
                $encodings[$trial->column] =
                    $encoding === null ? $trial->encoding : ($trial->encoding === $encoding ? $encoding : self::PLAIN);
            }
        }

        return new Variant(
            $policy,
            $compression,
            $order,
            $encodings,
            array_sum($bytes) / $rows,
            $this->uncertainty($bytes),
            $write / $rows,
            $read / $rows,
            $work / $rows,
        );
    }

    /**
     * Of the ratio of bytes to rows, from how much the places differ (the ratio estimator of cluster samples; Cochran,
     * "Sampling techniques", 1977, ch. 6).
     *
     * @param  array<int, int>  $bytes by place
     */
    private function uncertainty(array $bytes): float
    {
        $n = count($bytes);
        $rows = $this->sampledRows();
        if ($n < 2 || $rows === 0) {
            return 1.0;
        }
        $ratio = array_sum($bytes) / $rows;
        $squares = 0.0;
        foreach ($bytes as $i => $size) {
            $squares += ($size - $ratio * $this->rows[$i]) ** 2;
        }

        return ((self::T[$n - 1] ?? 2.0) * sqrt($squares / ($n * ($n - 1)))) / ($rows / $n) / max(1e-9, $ratio);
    }
}
