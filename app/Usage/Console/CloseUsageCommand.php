<?php

declare(strict_types=1);

namespace App\Usage\Console;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Usage\Application\DayMaker;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Console\Command;

final class CloseUsageCommand extends Command
{
    protected $signature = 'usage:close
        {--from= : first day, as 2026-11-20; the first one that is not closed where it is left out}
        {--to= : last day; today where it is left out}
        {--again : holds days that are closed against their load as well}';

    protected $description = 'Makes usage facts of days, closes those that are over, and corrects those that were closed';

    public function handle(DayMaker $maker, Calendar $calendar): int
    {
        $now = Clock::seconds();
        $today = $calendar->day($now);
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
            $count = $maker->make(
                $cluster,
                $days['from'],
                min((int) $days['to'], $today),
                $now,
                (bool) $this->option('again'),
                fn (string $day, float $share) => $this->output->isVerbose() ? $this->line("{$day}, ".round(100 * $share).'%') : null,
            );
            $said = DayMaker::said($count);
            if ($said !== '') {
                $this->line("{$cluster->name}: {$said}.");
            }
        }

        return self::SUCCESS;
    }

    private static function day(string $text): int|false
    {
        $at = preg_match('~^\d{4}-\d\d-\d\d$~D', $text) === 1 ? strtotime("{$text} UTC") : false;

        return $at !== false && gmdate('Y-m-d', $at) === $text ? $at : false;
    }
}
