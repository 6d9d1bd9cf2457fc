<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertCondition;
use Fulcrion\Core\Alerts\AlertCourse;
use Fulcrion\Core\Alerts\AlertScore;
use Fulcrion\Core\Alerts\IncidentReplay;
use Fulcrion\Core\Alerts\MarkedSpan;
use Fulcrion\Core\Alerts\SilentSeconds;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\TimesUsual;
use Fulcrion\Core\Statistics\NormalDraw;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Two hundred months of twelve hosts with incidents that are known: what the conditions that are proposed catch, miss and ring for
 * nothing, and how many messages an incident is worth.
 */
final class AlertQualityBench implements Measurement
{
    private const MONTHS = 200;

    private const HOSTS = 12;

    private const STEP = 300;

    private const DAYS = 28;

    private const DAY = 288;

    private const HOUR = 12;

    private const KINDS = ['all hosts busy', 'one host busy', 'twice the usual', 'hosts fall silent'];

    /** Monday, 2 November 2026. */
    private const FROM = 1_793_577_600;

    private Randomizer $random;

    public function name(): string
    {
        return 'alert-quality';
    }

    public function run(Closure $say): iterable
    {
        $this->random = new Randomizer(new Mt19937(23));
        $conditions = [
            'busy' => new AlertCondition(ThresholdSide::Above, 0.9, 0.81, 900, 900),
            'more than usual' => new AlertCondition(ThresholdSide::Above, 2.0, 1.8, 900, 900, 0.5),
            'silent' => new AlertCondition(ThresholdSide::Above, 900.0, 900.0, 0, 900),
        ];
        $marked = $caught = $incidents = $words = $nothing = $extra = 0;
        $all = $found = array_fill_keys(self::KINDS, 0);
        for ($month = 0; $month < self::MONTHS; $month++) {
            if ($month % 10 === 0) {
                $say("month {$month} of ".self::MONTHS);
            }
            [$values, $spans] = $this->month();
            $rings = [];
            foreach ($conditions as $name => $condition) {
                $rings[$name] = AlertCourse::rings($condition, $this->watched($name, $values), self::FROM, self::STEP);
            }
            $score = AlertScore::of(array_merge(...array_values($rings)), $spans);
            $marked += count($spans);
            $caught += count($score->caught);
            foreach ($spans as $span) {
                $all[$span->name] = ($all[$span->name] ?? 0) + 1;
                $found[$span->name] = ($found[$span->name] ?? 0) + (in_array($span, $score->caught, true) ? 1 : 0);
            }
            foreach (IncidentReplay::of($rings) as [$course, $told]) {
                $incidents++;
                $words += $told;
                $isMarked = array_filter($spans, static fn (MarkedSpan $span): bool => $course->openedAt >= $span->from
                    && $course->openedAt <= $span->to + 3_600) !== [];
                $nothing += $isMarked ? 0 : 1;
            }
            $extra += count($score->quiet);
        }
        yield BenchFigure::of('incidents marked', (float) $marked, 'in '.self::MONTHS.' months');
        yield BenchFigure::of('caught', 100 * $caught / max(1, $marked), '%');
        yield BenchFigure::of('missed', (float) ($marked - $caught), 'incidents');
        foreach ($all as $kind => $of) {
            yield BenchFigure::of("caught: {$kind}", 100 * ($found[$kind] ?? 0) / max(1, $of), "% of {$of}");
        }
        yield BenchFigure::of('told, where nobody had marked anything', $nothing / self::MONTHS, 'a month');
        yield BenchFigure::of('rings in which nothing was marked', $extra / self::MONTHS, 'a month');
        yield BenchFigure::atMost('messages an incident, that it began or grew', $words / max(1, $incidents), 1.2, 'messages');
    }

    /**
     * @param  array<string, list<float|null>>  $values
     * @return array<string, list<float|null>>
     */
    private function watched(string $name, array $values): array
    {
        return match ($name) {
            'silent' => array_map(static fn (array $list): array => SilentSeconds::of($list, self::STEP), $values),
            'more than usual' => array_map(self::usual(...), $values),
            default => $values,
        };
    }

    /**
     * @param  list<float|null>  $list
     * @return list<float|null>
     */
    private static function usual(array $list): array
    {
        $hours = [];
        foreach (array_chunk($list, self::HOUR) as $some) {
            $known = array_filter($some, static fn (?float $one): bool => $one !== null);
            $hours[] = $known === [] ? null : array_sum($known) / count($known);
        }

        return TimesUsual::of($list, self::FROM, self::STEP, $hours, self::FROM, new DateTimeZone('UTC'));
    }

    /**
     * A month of twelve hosts: busier by day than by night and on weekends, each a little its own, noisy, with peaks that are nobody's
     * concern, single readings that are missing, a load nobody minds, in every third month a batch that fills all hosts on Sundays, and two
     * to five incidents. Those are of any size: some are over before a condition has lasted, some stay below it, and hosts come into them
     * one after the other.
     *
     * @return array{array<string, list<float|null>>, list<MarkedSpan>}
     */
    private function month(): array
    {
        $spans = $hits = [];
        for ($i = $this->random->getInt(2, 5); $i > 0; $i--) {
            [$kind, $began, $ended] = $hit = $this->incident();
            $spans[] = new MarkedSpan(self::FROM + $began * self::STEP, self::FROM + $ended * self::STEP, $kind);
            $hits[] = $hit;
        }
        // Work that is meant, and marked by nobody.
        $began = $this->random->getInt(15 * self::DAY, 27 * self::DAY);
        $hits[] = ['twice the usual', $began, $began + self::HOUR, 0, 1.3 + $this->uniform()];
        if ($this->random->getInt(0, 2) === 0) {
            for ($week = 1; $week <= 4; $week++) {
                $sunday = (7 * $week - 1) * self::DAY + 2 * self::HOUR;
                $hits[] = ['all hosts busy', $sunday, $sunday + $this->random->getInt(2, 6), 0, 0.95];
            }
        }
        $values = [];
        for ($host = 0; $host < self::HOSTS; $host++) {
            $values["host-{$host}"] = $this->host($host, $hits);
        }

        return [$values, $spans];
    }

    /**
     * @return array{string, int, int, int, float} kind, first step, first step after it, the host it is about, and its size
     */
    private function incident(): array
    {
        $kind = self::KINDS[$this->random->getInt(0, 3)];
        // What is usual is known after two weeks.
        $began = $this->random->getInt($kind === 'twice the usual' ? 15 * self::DAY : self::DAY, (self::DAYS - 1) * self::DAY);
        $size = match ($kind) {
            'twice the usual' => 1.6 + 1.6 * $this->uniform(), default => 0.85 + 0.15 * $this->uniform(),
        };

        return [$kind, $began, $began + $this->random->getInt(2, 40), $this->random->getInt(0, self::HOSTS - 1), $size];
    }

    /**
     * @param  list<array{string, int, int, int, float}>  $hits
     * @return list<float|null>
     */
    private function host(int $host, array $hits): array
    {
        $own = 0.9 + 0.2 * $this->uniform();
        $late = array_map(fn (): int => $this->random->getInt(0, 3), $hits);
        $list = [];
        $peak = 0;
        for ($step = 0; $step < self::DAYS * self::DAY; $step++) {
            $hour = $step % self::DAY / self::HOUR;
            $work = (0.12 + 0.22 * exp(-(($hour - 11) ** 2) / 18)) * (intdiv($step, self::DAY) % 7 > 4 ? 0.5 : 1.0) * $own;
            $peak = $peak > 0 ? $peak - 1 : ($this->random->getInt(0, 1_999) === 0 ? $this->random->getInt(1, 3) : 0);
            $value = $work * (1 + 0.08 * $this->normal()) + ($peak > 0 ? 0.7 : 0.0);
            foreach ($hits as $i => [$kind, $began, $ended, $sick, $size]) {
                if ($step >= $began + $late[$i] && $step < $ended) {
                    $value = match ($kind) {
                        'all hosts busy' => $size + 0.02 * $this->normal(),
                        'one host busy' => $host === $sick ? $size + 0.015 * $this->normal() : $value,
                        'twice the usual' => $value === null ? null : $size * $value,
                        default => $host % 3 === 0 ? null : $value,
                    };
                }
            }
            $list[] = $value === null || $this->random->getInt(0, 199) === 0 ? null : min(1.0, max(0.0, $value));
        }

        return $list;
    }

    private function uniform(): float
    {
        return $this->random->getInt(1, 1_000_000) / 1_000_000;
    }

    private function normal(): float
    {
        return NormalDraw::of($this->uniform(), $this->uniform());
    }
}
