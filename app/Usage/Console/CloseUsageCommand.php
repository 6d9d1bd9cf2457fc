<?php

declare(strict_types=1);

namespace App\Usage\Console;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\DayFacts;
use App\Telemetry\Usage\DayOutcome;
use App\Telemetry\Usage\StatementTables;
use App\Telemetry\Usage\UsageSums;
use App\Usage\Application\UnreadFindings;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

final class CloseUsageCommand extends Command
{
    protected $signature = 'usage:close
        {--from= : first day, as 2026-11-20; the first one that is not closed where it is left out}
        {--to= : last day; today where it is left out}
        {--again : holds days that are closed against their load as well}';

    protected $description = 'Makes usage facts of days, closes those that are over, and corrects those that were closed';

    public function handle(DayFacts $facts, StatementTables $tables, UnreadFindings $unread): int
    {
        $now = Clock::seconds();
        $today = $now - $now % DayFacts::DAY;
        $days = [];
        foreach (['from' => null, 'to' => $today] as $option => $default) {
            $typed = $this->option($option);
            $days[$option] = $typed === null ? $default : self::day((string) $typed);
            if ($days[$option] === false) {
                $this->error("--{$option} is a day as 2026-11-20; \"{$typed}\" is none.");

                return self::INVALID;
            }
        }
        if ($days['from'] !== null && $days['from'] > $days['to']) {
            $this->error('--from lies after --to.');

            return self::INVALID;
        }
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            $this->cluster($cluster, $facts, $days['from'], min((int) $days['to'], $today), $now);
            UsageSums::months($cluster, $now);
            $tables->learn($cluster);
            $unread->report($cluster, $now);
        }

        return self::SUCCESS;
    }

    private function cluster(Cluster $cluster, DayFacts $facts, ?int $from, int $to, int $now): void
    {
        $closed = DB::table('usage_days')->where('cluster_id', $cluster->id)->whereNotNull('closed_at')->pluck('day_at')->flip();
        $days = DB::table('load_day')
            ->where('cluster_id', $cluster->id)
            ->whereBetween('bucket_at', [$from ?? 0, $to])
            ->distinct()
            ->orderBy('bucket_at')
            ->pluck('bucket_at');
        $count = array_fill_keys(array_map(static fn (DayOutcome $one): string => $one->value, DayOutcome::cases()), 0);
        foreach ($days as $i => $day) {
            // What a person names is looked at again; by itself only what is not closed.
            if ($from === null && ! (bool) $this->option('again') && isset($closed[(int) $day])) {
                continue;
            }
            $count[$facts->make($cluster, (int) $day, $now)->value]++;
            if ($this->output->isVerbose()) {
                $this->line("{$cluster->name}: ".gmdate('Y-m-d', (int) $day).', '.($i + 1).' of '.count($days));
            }
        }
        $said = [];
        foreach (array_filter($count, static fn (int $days): bool => $days > 0) as $outcome => $number) {
            $said[] = ($number === 1 ? 'one day' : "{$number} days")." {$outcome}";
        }
        if ($said !== []) {
            $this->line("{$cluster->name}: ".implode(', ', $said).'.');
        }
    }

    private static function day(string $text): int|false
    {
        $at = preg_match('~^\d{4}-\d\d-\d\d$~D', $text) === 1 ? strtotime("{$text} UTC") : false;

        return $at !== false && gmdate('Y-m-d', $at) === $text ? $at : false;
    }
}
