<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\TimePlot;
use Closure;
use DateTimeZone;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * A few measures of one kind over time, with gaps as gaps and restarts as marks.
 */
final readonly class StateChart
{
    /**
     * @param  non-empty-list<Measure>  $measures at most three
     * @param  Closure(float): string  $format
     * @param  int  $base of the units it is told in: 1024 for bytes
     */
    public function __construct(
        public string $id,
        public string $title,
        public string $how,
        public array $measures,
        private Closure $format,
        private int $base = 1,
    ) {
    }

    /**
     * @return list<self>
     */
    public static function all(): array
    {
        $bytes = static fn (float $value): string => Quantity::bytes($value).'/s';
        $count = Quantity::digits(...);

        return [
            new self(
                'statements',
                'Statements a second',
                'Statements the server answered, each a second: growth of its counter Questions.',
                [Measure::rate('statements', 'questions')],
                $count,
            ),
            new self('connections', 'Connections', 'The most of each reading in the interval.', [
                Measure::most('connected', 'threads_connected'),
                Measure::most('at work', 'threads_running'),
            ], $count),
            new self('row-locks', 'Waiting for row locks', 'Mean number of sessions that waited: growth of the waiting time, which the '
                .'server adds when a wait ends; and the most that were waiting at a reading.', [
                    Measure::rate('mean, of ended waits', 'innodb_row_lock_time', 0.001),
                    Measure::most('seen waiting', 'innodb_row_lock_current_waits'),
                ], $count),
            new self('buffer-pool', 'Buffer pool', 'Share of the pages asked for that were not in memory, and share of its pages that '
                .'wait to be written.', [
                    Measure::share('read from disk', 'innodb_buffer_pool_reads', 'innodb_buffer_pool_read_requests'),
                    Measure::shareOf('waiting to be written', 'innodb_buffer_pool_pages_dirty', 'innodb_buffer_pool_pages_total'),
                ], Quantity::percent(...)),
            new self('disk', 'Bytes read and written', 'By the engine InnoDB, each a second; redo is what it writes ahead.', [
                Measure::rate('read', 'innodb_data_read'),
                Measure::rate('written', 'innodb_data_written'),
                Measure::rate('redo', 'innodb_os_log_written'),
            ], $bytes, 1024),
            new self('temporary', 'Temporary tables a second', 'Made for statements, in all and on disk.', [
                Measure::rate('in all', 'created_tmp_tables'),
                Measure::rate('on disk', 'created_tmp_disk_tables'),
            ], $count),
            new self('history', 'Old versions of rows', 'Not yet cleared away: grows while a transaction stays open.', [
                Measure::most('entries of the history', 'innodb_history_list_length'),
            ], Quantity::short(...)),
            new self('replication', 'Behind its source', 'Of the slowest source, as the server says.', [
                Measure::most('behind', 'replication_lag_s'),
            ], static fn (float $seconds): string => Quantity::duration($seconds * 1e6)),
        ];
    }

    /**
     * Those of which something is known.
     *
     * @param  list<self>  $charts
     * @param  array<string, Readings>  $readings
     * @param  list<array{int, int}>  $gaps
     * @param  array<int, string>  $marks second => name
     * @param  (Closure(int, int): string)|null  $link address for an interval
     * @return list<array{self, Figure}>
     */
    public static function drawn(
        array $charts,
        array $readings,
        Window $window,
        int $step,
        array $gaps,
        array $marks,
        DateTimeZone $zone,
        ?Closure $link = null,
    ): array {
        $drawn = [];
        foreach ($charts as $chart) {
            $figure = $chart->draw($readings, $window->from, $window->to, $step, $gaps, $marks, $zone, $link);
            if ($figure !== null) {
                $drawn[] = [$chart, $figure];
            }
        }

        return $drawn;
    }

    /**
     * @param  array<string, Readings>  $readings by what the server keeps
     * @param  list<array{int, int}>  $gaps
     * @param  array<int, string>  $marks second => name
     * @param  (Closure(int, int): string)|null  $link address for an interval
     * @return Figure|null null where the server tells nothing of it
     */
    public function draw(
        array $readings,
        int $from,
        int $to,
        int $step,
        array $gaps,
        array $marks,
        DateTimeZone $zone,
        ?Closure $link = null,
    ): ?Figure {
        $series = [];
        foreach ($this->measures as $measure) {
            $values = ($measure->values)($readings, $from, $to, $step);
            if (Spread::known($values) !== []) {
                $series[$measure->name] = $values;
            }
        }
        if ($series === []) {
            return null;
        }
        $most = 0.0;
        foreach ($series as $values) {
            $most = max($most, ...array_map(floatval(...), $values));
        }
        // Round numbers of the unit that is shown.
        $ticks = Scale::inUnits($most, $this->base, 3);
        $frame = new Frame(
            "state-{$this->id}",
            $this->title,
            $this->summary($series),
            Axis::even($from, $to),
            Axis::upTo($ticks),
            height: 150,
            left: 76,
            top: 14,
            links: $link !== null,
        );
        $frame->grid($ticks, $this->format)->along(Scale::times($from, $to, $zone), within: true);
        $frame->gaps($gaps, $from, $to);
        $place = 0;
        foreach ($series as $values) {
            $place++;
            $points = [];
            foreach ($values as $i => $value) {
                $points[] = [min((float) $to, $from + ($i + 0.5) * $step), $value];
            }
            $frame->broken("line s{$place}", $points);
        }
        $frame->marks($marks);

        $lines = [];
        foreach (array_values($series) as $i => $values) {
            $lines[] = ['line s'.($i + 1), $values];
        }
        $rows = $this->rows($frame, $series, $from, $to, $step, $zone, $link);
        $plot = new TimePlot(
            false,
            range($from, max($from, $to - 1), $step),
            $to,
            $lines,
            Scale::labelled($ticks, $this->format),
            150,
            76,
            $zone,
            $gaps,
            $marks,
        );

        return $frame->figure($this->how, ['interval', ...array_keys($series)], $rows, $plot);
    }

    /**
     * @param  array<string, list<float|null>>  $series
     * @param  (Closure(int, int): string)|null  $link
     * @return list<list<string>>
     */
    private function rows(Frame $frame, array $series, int $from, int $to, int $step, DateTimeZone $zone, ?Closure $link): array
    {
        $rows = [];
        for ($i = 0, $at = $from; $at < $to; $i++, $at += $step) {
            $when = StackFigure::when($at, $step, $zone);
            $told = array_map(
                fn (array $values): string => ($values[$i] ?? null) === null ? Quantity::NONE : ($this->format)((float) $values[$i]),
                $series,
            );
            $said = [];
            foreach ($told as $name => $value) {
                $said[] = "{$name} ".($value === Quantity::NONE ? 'not known' : $value);
            }
            $rows[] = [$when, ...array_values($told)];
            $end = min($to, $at + $step);
            $frame->slice($at, $end, "{$when}: ".implode('; ', $said), $link === null ? null : $link($at, $end));
        }

        return $rows;
    }

    /**
     * @param  non-empty-array<string, list<float|null>>  $series
     */
    private function summary(array $series): string
    {
        $parts = [];
        foreach ($series as $name => $values) {
            $known = Spread::known($values);
            $parts[] = $known === [] ? "{$name} not known" : "{$name} between ".($this->format)(min($known)).' and '.
                ($this->format)(max($known));
        }

        return "{$this->title}: ".implode('; ', $parts).'.';
    }
}
