<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageFold;
use App\Telemetry\Usage\UsageScope;
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
    public function __construct(public Days $days, public array $by, private ?Cluster $cluster)
    {
    }

    public function count(): int
    {
        return (int) DB::scalar("SELECT COUNT(*) FROM ({$this->sql()}) rows_of");
    }

    /**
     * @return list<array<string, int|string>> a value for each field, then each measure
     */
    public function rows(int $offset, int $limit): array
    {
        $order = implode(', ', array_map(static fn (int $i): string => "by{$i}", array_keys($this->by)));

        return array_values(array_map(
            $this->row(...),
            DB::select("{$this->sql()} ORDER BY {$order} LIMIT {$limit} OFFSET {$offset}"),
        ));
    }

    private function sql(): string
    {
        $measures = array_map(static fn (UsageMeasure $measure): string => $measure->value, UsageMeasure::cases());

        return (new UsageFold(UsageScope::within($this->days, UsageMeasure::Executions, $this->cluster), $this->days, $this->by, $measures))
            ->named();
    }

    /**
     * @return array<string, int|string>
     */
    private function row(stdClass $row): array
    {
        $line = [];
        foreach ($this->by as $i => $axis) {
            $value = (string) $row->{"by{$i}"};
            $line[$axis->label()] = $axis->isTime() && $axis->key !== 'month' ? $axis->written((int) $value) : $value;
        }
        foreach (UsageMeasure::cases() as $measure) {
            $line[$measure->value] = (int) $row->{$measure->value};
        }

        return $line;
    }
}
