<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageFold;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * How many executions took longer than somebody wants to know, of days whose load is still kept. Counted one by one where their
 * durations are known singly, within 2% of the duration asked for.
 */
final class LongExecutions
{
    /** @var array<string, array<int, string>> names by number, by field */
    private array $names = [];

    public function __construct(private readonly Calendar $calendar)
    {
    }

    /**
     * @return list<array{string, string, int}> value on the rows, value on the columns, executions
     */
    public function grid(UsageAxis $rows, UsageAxis $columns, UsageScope $scope, int $longerThanUs): array
    {
        $cells = [];
        // Days of the load are days of UTC.
        $table = $rows->isOfHours() || $columns->isOfHours() || ! $this->calendar->isUtc() ? 'load_hour' : 'load_day';
        foreach ($this->rows($table, $scope, $longerThanUs) as $row) {
            $count = $row->sketch === null ? (int) $row->executions
                : LatencySketch::fromBinary((string) $row->sketch)->above($longerThanUs);
            if ($count > 0) {
                $key = "{$this->value($rows, $row)}\x1f{$this->value($columns, $row)}";
                $cells[$key] = ($cells[$key] ?? 0) + $count;
            }
        }
        $list = [];
        foreach ($cells as $key => $count) {
            [$across, $down] = explode("\x1f", $key, 2);
            $list[] = [$across, $down, $count];
        }

        return $list;
    }

    /**
     * @return iterable<stdClass> keys of facts, executions, and the sketch where only some of them took longer
     */
    private function rows(string $table, UsageScope $scope, int $longerThanUs): iterable
    {
        $fold = new UsageFold($scope, $scope->days, [], []);
        $load = $fold->load($table, ", IF(l.min_us > {$longerThanUs}, NULL, l.sketch) AS sketch", "l.max_us > {$longerThanUs}");
        yield from DB::table(DB::raw("{$load} f"))
            ->select(['hour_at', 'cluster_id', 'team_id', 'origin_id', 'statement_id', 'executions', 'sketch'])
            ->whereRaw($fold->where())
            ->cursor();
    }

    private function value(UsageAxis $axis, stdClass $row): string
    {
        if ($axis->field === null) {
            return $axis->at((int) $row->hour_at, $this->calendar);
        }
        $this->names[$axis->key] ??= self::names($axis->field);

        return $this->names[$axis->key][(int) $row->{$axis->field->key()}] ??= (string) DB::table('statements')
            ->where('id', $row->statement_id)
            ->value('fingerprint');
    }

    /**
     * @return array<int, string> of statements none, since there may be very many
     */
    private static function names(UsageField $field): array
    {
        $table = match ($field) {
            UsageField::Team => 'usage_teams AS t',
            UsageField::Cluster => 'clusters AS c',
            UsageField::Statement => null,
            default => 'origins AS o',
        };

        return $table === null ? [] : DB::table($table)
            ->pluck($field->column(), explode(' ', $table)[2].'.id')
            ->map(static fn (mixed $name): string => (string) $name)
            ->all();
    }
}
