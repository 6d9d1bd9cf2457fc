<?php

declare(strict_types=1);

namespace App\Encodings\Application;

use App\Encodings\Charts\FrontFigure;
use App\Encodings\Models\LabRun;
use App\Estate\Connectors\SourceError;
use App\Platform\Figures\Figure;
use App\Platform\Support\Money;
use App\Telemetry\Workload\EstateReader;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Storage\Encodings\LabResult;
use Fulcrion\Core\Storage\Encodings\Variant;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Http\Request;

/**
 * What a run of the encoding lab says for an aim and prices.
 */
final readonly class LabPage
{
    public const AIMS = ['smallest' => 'smallest', 'fastest' => 'fastest to read', 'balanced' => 'cheapest a month'];

    private const WEEKS = 4.345;

    /** Statements a week that change single rows from which whole rows are better kept together. */
    private const SINGLE = 100.0;

    public LabResult $lab;

    /** @var list<Variant> */
    public array $variants;

    /** @var list<Variant> */
    public array $front;

    public Variant $chosen;

    public Variant $plainRows;

    public Variant $usual;

    public string $aim;

    public float $gibMonth;

    public float $nodeHour;

    public string $order;

    public string $compression;

    /** Rows and bytes of the whole table on the modelled cluster, all copies. */
    private float $rows;

    private float $bytes;

    /** Node time a week that reading takes now: for rows, and for bytes from disk. */
    private float $rowUs;

    private float $byteUs;

    /** @var array<string, float> share of executions that ask for each column */
    public array $asked;

    /** Executions a week that change single rows. */
    public float $single;

    /**
     * @param  Rates|null  $rates of the cluster, which hold where nothing else is typed
     */
    public function __construct(public LabRun $run, Request $request, EstateReader $reader, private ?Rates $rates)
    {
        $lab = $run->lab();
        assert($lab !== null);
        $this->lab = $lab;
        // Each fact is taken out of the whole result, which is long.
        $modelled = $run->fact('rowFactor') * $run->fact('copies');
        [$this->rows, $this->bytes] = [$run->fact('tableRows') * $modelled, $run->fact('tableBytes') * $modelled];
        [$this->asked, $this->rowUs, $this->byteUs, $this->single] = $this->workload($reader);
        $this->variants = $lab->variants($this->asked);
        $this->front = LabResult::front($this->variants);
        $price = static fn (string $name, ?BigDecimal $booked): float => is_numeric($request->query($name))
            ? max(0.0, (float) $request->query($name))
            : $booked?->toFloat() ?? 0.0;
        $this->gibMonth = $price('gib', $rates?->storedGibMonth);
        $this->nodeHour = $price('node', $rates?->nodeHour);
        $aim = $request->query('aim');
        $this->aim = is_string($aim) && isset(self::AIMS[$aim]) ? $aim : ($this->isPriced() ? 'balanced' : 'smallest');
        $order = $request->query('order');
        $this->order = is_string($order) && isset($lab->orders[$order]) ? $order : '';
        $compression = $request->query('compression');
        $this->compression = is_string($compression) ? $compression : '';
        $this->plainRows = $this->find(Variant::ROWS, 'none', 'as it comes');
        $this->usual = $this->find(LabResult::USUAL, 'gzip5', isset($lab->orders['by its key']) ? 'by its key' : 'as it comes');
        $this->chosen = $this->best($this->aim);
    }

    /** Bytes of the whole table on the modelled cluster, all copies. */
    public function size(Variant $v): float
    {
        return $v->bytesPerRow * $this->rows;
    }

    public function now(): float
    {
        return $this->bytes;
    }

    /** Storing it and reading it as often as it is read now. */
    public function month(Variant $v): float
    {
        return ($this->size($v) / 1_073_741_824) * $this->gibMonth +
            (((($this->rowUs * $v->readWorkNs) / max(1e-9, $this->usual->readWorkNs) +
                ($this->byteUs * $this->size($v)) / max(1.0, $this->now())) *
                self::WEEKS) /
                3.6e9) *
                $this->nodeHour;
    }

    public function best(string $aim): Variant
    {
        $candidates = array_values(array_filter($this->variants, static fn (Variant $v): bool => $v->policy !== Variant::ROWS));
        usort(
            $candidates,
            fn (Variant $a, Variant $b): int => match ($aim) {
                'smallest' => $a->bytesPerRow <=> $b->bytesPerRow,
                'fastest' => $a->readWorkNs <=> $b->readWorkNs,
                default => $this->month($a) <=> $this->month($b),
            },
        );

        return $candidates[0];
    }

    public function sentence(): string
    {
        $now = $this->now();
        $size = $this->size($this->chosen);
        $money =
            $this->aim === 'balanced' && $this->isPriced() && $this->run->cluster_id !== null
                ? ', '.$this->money($this->month($this->chosen)).' a month to keep and read'
                : '';

        return "{$this->run->object} would take ".
            Quantity::bytes($size).
            ' instead of '.
            Quantity::bytes($now).
            ' ('.
            ($size < $now ? Quantity::percent(1 - $size / max(1, $now)).' less' : Quantity::percent($size / max(1, $now) - 1).' more').
            ") written {$this->chosen->label()}{$money}";
    }

    /** What the choice costs beside the best of the other aims. */
    public function price(): string
    {
        $smallest = $this->best('smallest');
        $fastest = $this->best('fastest');
        $parts = [];
        if ($this->chosen->bytesPerRow > $smallest->bytesPerRow * 1.005) {
            $parts[] = Quantity::percent($this->chosen->bytesPerRow / $smallest->bytesPerRow - 1).' larger than the smallest';
        }
        if ($this->chosen->readWorkNs > $fastest->readWorkNs * 1.005) {
            $parts[] = 'reads '.Quantity::digits($this->chosen->readWorkNs / $fastest->readWorkNs).' times as long as the fastest';
        }
        $parts[] =
            'takes '.
            Quantity::digits($this->chosen->writeNs / max(1.0, $this->usual->writeNs)).
            ' times as long to write as what suits the values';

        return ucfirst(implode('; it ', $parts)).'.';
    }

    /** Whether what is cheapest a month can be told. */
    public function isPriced(): bool
    {
        return $this->gibMonth > 0 || $this->nodeHour > 0;
    }

    public function currency(): string
    {
        return $this->rates->currency ?? (string) config('fulcrion.currency');
    }

    public function money(float $amount): string
    {
        return Money::plain($amount, $this->currency());
    }

    /** The statement that writes the table that way; null for whole rows and files. */
    public function statement(Variant $v, TableLayout $table, int $olderThanDays): ?string
    {
        if ($v->policy === Variant::ROWS) {
            return null;
        }
        $words = [];
        foreach ($v->encodings as $column => $word) {
            if ($word !== '' && Encoding::named($word) !== null) {
                $words[] = "{$column}:{$word}";
            }
        }
        $order = $this->lab->orders[$v->order] ?? [];

        return "MAINTAIN TABLE {$table->path()} WITH (action = encode, compression = {$v->compression}".
            ($words === [] ? '' : ", encodings = '".implode(', ', $words)."'").
            ($order === [] ? '' : ", sorted_by = '".implode(', ', $order)."'").
            ($olderThanDays > 0 ? ", older_than_days = {$olderThanDays}" : '').
            ')';
    }

    public function find(string $policy, string $compression, string $order): Variant
    {
        foreach ($this->variants as $variant) {
            if ($variant->policy === $policy && $variant->compression === $compression && $variant->order === $order) {
                return $variant;
            }
        }

        return $this->variants[0];
    }

    public function byKey(string $key): ?Variant
    {
        foreach ($this->variants as $variant) {
            if ($variant->key() === $key) {
                return $variant;
            }
        }

        return null;
    }

    /**
     * @return list<Variant> those that are shown, smallest first
     */
    public function shown(): array
    {
        $shown = array_values(
            array_filter(
                $this->variants,
                fn (Variant $v): bool => ($this->order === '' || $v->order === $this->order) &&
                    ($this->compression === '' || $v->compression === $this->compression),
            ),
        );
        usort($shown, static fn (Variant $a, Variant $b): int => $a->bytesPerRow <=> $b->bytesPerRow);

        return $shown;
    }

    /**
     * What each column has, and how the chosen variant writes it.
     *
     * @return list<array{name: string, distinct: int, run: float, encoding: string, bytes: float, share: float, plain: float}>
     */
    public function columns(): array
    {
        $rows = max(1, $this->lab->sampledRows());
        $columns = [];
        foreach ($this->lab->facts as $name => $facts) {
            $word = $this->chosen->encodings[$name] ?? '';
            $bytes = $plain = 0.0;
            foreach ($this->lab->trials as $trial) {
                if ($trial->column === (string) $name && $trial->order === $this->chosen->order) {
                    $bytes =
                        $trial->encoding === $word && $trial->compression === $this->chosen->compression ? $trial->sum() / $rows : $bytes;
                    $plain = $trial->encoding === 'plain' && $trial->compression === 'none' ? $trial->sum() / $rows : $plain;
                }
            }
            $columns[] = [
                'name' => (string) $name,
                'distinct' => $facts['distinct'],
                'run' => $facts['run'],
                'encoding' => $word === '' ? 'as suits it' : Encoding::named($word)?->label() ?? $word,
                'bytes' => $bytes,
                'share' => $bytes / max(1e-9, $this->chosen->bytesPerRow),
                'plain' => $plain,
            ];
        }
        usort($columns, static fn (array $a, array $b): int => $b['bytes'] <=> $a['bytes']);

        return $columns;
    }

    public function figure(): Figure
    {
        return FrontFigure::draw($this);
    }

    /**
     * @return array{array<string, float>, float, float, float}
     */
    private function workload(EstateReader $reader): array
    {
        $cluster = $this->run->cluster;
        if ($cluster === null) {
            return [[], 0.0, 0.0, 0.0];
        }
        try {
            $layouts = $reader->layouts($cluster);
            $table = $layouts[$this->run->object] ?? null;
            $estate = $reader->estate($cluster, $layouts, $this->run->object);
        } catch (SourceError) {
            return [[], 0.0, 0.0, 0.0];
        }

        return $table === null ? [[], 0.0, 0.0, 0.0] : $this->asked($table, $estate);
    }

    /**
     * @return array{array<string, float>, float, float, float}
     */
    private function asked(TableLayout $table, Estate $estate): array
    {
        $asked = [];
        $executions = $rows = $bytes = $single = 0.0;
        $model = $estate->reads($table);
        foreach ($estate->workload->touching($table->name)->statements as $statement) {
            foreach ($statement->tables as $use) {
                if ($use->table !== $table->name) {
                    continue;
                }
                if ($use->writes) {
                    // An equality with a column of many values means a row or two.
                    $narrow = array_filter(
                        $use->predicates,
                        static fn ($p): bool => ($p->low === $p->high || ! $p->known) &&
                            ($table->statistics->columns[$p->column]['distinct'] ?? 0) > $table->rows() / 20,
                    );
                    $single += $narrow !== [] ? $statement->executions : 0.0;

                    continue;
                }
                $executions += $statement->executions;
                $rows += $statement->executions * $model->share($use) * $table->rows() * $estate->rates->usPerRow;
                $bytes += $statement->executions * $model->bytes($use, $model->share($use)) * $estate->rates->usPerByteRead;
                foreach ($use->columns as $column) {
                    $asked[$column] = ($asked[$column] ?? 0.0) + $statement->executions;
                }
            }
        }

        return [array_map(static fn (float $times): float => $executions > 0 ? $times / $executions : 0.0, $asked), $rows, $bytes, $single];
    }

    public function changesRows(): bool
    {
        return $this->single > self::SINGLE;
    }
}
