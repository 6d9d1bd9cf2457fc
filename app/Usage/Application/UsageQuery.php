<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageSums;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * All measures of use by any fields, in an order that stays, so that it can be read in parts.
 */
final readonly class UsageQuery
{
    /**
     * @param  non-empty-list<UsageAxis>  $by
     */
    public function __construct(public Days $days, public array $by, public ?int $clusterId)
    {
    }

    public function count(): int
    {
        [$select, $from] = $this->parts();

        return (int) DB::scalar("SELECT COUNT(*) FROM (SELECT {$select} {$from}) rows_of", $this->bindings());
    }

    /**
     * @return list<array<string, int|string>> a value for each field, then each measure
     */
    public function rows(int $offset, int $limit): array
    {
        [$select, $from] = $this->parts();
        $sums = implode(', ', array_map(static fn (UsageMeasure $m): string => "SUM(f.{$m->value}) AS {$m->value}", UsageMeasure::cases()));
        $order = implode(', ', array_map(static fn (int $i): string => (string) ($i + 1), array_keys($this->by)));

        return array_values(array_map(
            $this->row(...),
            DB::select("SELECT {$select}, {$sums} {$from} ORDER BY {$order} LIMIT {$limit} OFFSET {$offset}", $this->bindings()),
        ));
    }

    /**
     * @return array<string, int|string>
     */
    private function row(stdClass $row): array
    {
        $line = [];
        foreach ($this->by as $i => $axis) {
            $value = (string) $row->{"by{$i}"};
            $line[$axis->label()] = $axis->isTime() && $axis->key !== 'month' ? gmdate('Y-m-d', (int) $value) : $value;
        }
        foreach (UsageMeasure::cases() as $measure) {
            $line[$measure->value] = (int) $row->{$measure->value};
        }

        return $line;
    }

    /**
     * @return array{string, string} the fields, and from where by what
     */
    private function parts(): array
    {
        $select = $joins = $group = [];
        foreach ($this->by as $i => $axis) {
            $select[] = "{$axis->column()} AS by{$i}";
            $group[] = "by{$i}";
            $joins[] = $axis->field?->join() ?? '';
        }
        $fields = array_values(array_filter(array_map(static fn (UsageAxis $axis): ?UsageField => $axis->field, $this->by)));
        $isFine = array_filter($this->by, static fn (UsageAxis $axis): bool => $axis->isFinerThanMonth()) !== [];
        $source = UsageSums::source($fields, $this->days, ! $isFine);
        $of = $this->clusterId === null ? '' : ' AND f.cluster_id = ?';

        return [
            implode(', ', $select),
            "FROM {$source} f ".implode(' ', array_unique($joins))." WHERE f.day_at >= ? AND f.day_at < ?{$of} GROUP BY ".
                implode(', ', $group),
        ];
    }

    /**
     * @return list<int>
     */
    private function bindings(): array
    {
        return [$this->days->from, $this->days->to, ...$this->clusterId === null ? [] : [$this->clusterId]];
    }
}
