<?php

declare(strict_types=1);

namespace Tests\Core\Limits;

use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Text\TypedBytes;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class LimitTest extends TestCase
{
    private const WEDNESDAY = 1_795_564_800;

    /**
     * @param  list<Threshold>  $thresholds
     */
    private static function limit(int $amount, array $thresholds, ScopeKind $kind = ScopeKind::Team, string $name = 'lab'): Limit
    {
        return new Limit(LimitMeasure::Executions, $kind, $name, LimitPeriod::Day, $amount, $thresholds);
    }

    /**
     * @return iterable<string, array{int, int, int}> amount, percentage, the least amount that reaches it
     */
    public static function shares(): iterable
    {
        yield 'all of it' => [100, 100, 100];
        yield 'a half' => [100, 50, 50];
        yield 'a part of one counts as one' => [3, 50, 2];
        yield 'the least' => [1, 1, 1];
        yield 'more than all' => [10, 125, 13];
        yield 'of very many' => [9_000_000_000_000_001, 80, 7_200_000_000_000_001];
    }

    #[DataProvider('shares')]
    public function test_a_share_is_reached_by_the_least_whole_amount(int $amount, int $percent, int $least): void
    {
        self::assertSame($least, (new Threshold($percent, Act::Note))->of($amount));
    }

    public function test_shares_are_reached_one_after_the_other(): void
    {
        $limit = self::limit(200, [new Threshold(100, Act::Hold), new Threshold(50, Act::Note), new Threshold(80, Act::Tell)]);
        self::assertSame([50, 80, 100], array_map(static fn (Threshold $one): int => $one->percent, $limit->thresholds));
        $reached = static fn (int $used): array => array_map(static fn (Threshold $one): int => $one->percent, $limit->reached($used));
        self::assertSame([], $reached(99));
        self::assertSame([50], $reached(100));
        self::assertSame([50], $reached(159));
        self::assertSame([50, 80], $reached(160));
        self::assertSame([50, 80, 100], $reached(200));
        self::assertSame(200, $limit->holdsAt());
        self::assertNull(self::limit(200, [new Threshold(100, Act::Tell)])->holdsAt());
        self::assertSame(180, self::limit(200, [new Threshold(90, Act::Hold), new Threshold(95, Act::Hold)])->holdsAt());
    }

    public function test_it_covers_whom_it_names_and_nobody_else(): void
    {
        $sender = (new Sender('ada', 'boards', 'shared'))->of('lab')->to('fernhill');
        foreach ([[ScopeKind::Person, 'ada'], [ScopeKind::Team, 'lab'], [ScopeKind::Application, 'boards'], [ScopeKind::Queue, 'shared'],
            [ScopeKind::Cluster, 'fernhill']] as [$kind, $name]) {
            self::assertTrue(self::limit(1, [], $kind, $name)->covers($sender), $kind->value);
            self::assertFalse(self::limit(1, [], $kind, "{$name}s")->covers($sender), $kind->value);
        }
        // Who is in no team is not in the team without a name.
        self::assertFalse(self::limit(1, [], ScopeKind::Team, '')->covers(new Sender('ada')));
    }

    public function test_periods_are_of_the_calendar(): void
    {
        self::assertSame('Wed', gmdate('D', self::WEDNESDAY));
        $from = static fn (LimitPeriod $period): string => gmdate('D Y-m-d', $period->days(self::WEDNESDAY)->from);
        self::assertSame(gmdate('D Y-m-d', self::WEDNESDAY), $from(LimitPeriod::Day));
        self::assertSame('Mon '.gmdate('Y-m-d', self::WEDNESDAY - 2 * Days::DAY), $from(LimitPeriod::Week));
        self::assertStringEndsWith('-01', $from(LimitPeriod::Month));
        self::assertSame(7, LimitPeriod::Week->days(self::WEDNESDAY)->count());
        self::assertSame(1, LimitPeriod::Statement->days(self::WEDNESDAY)->count());
    }

    public function test_a_run_is_ended_by_what_it_passes_first(): void
    {
        $free = new RunMeter();
        $free->read(PHP_INT_MAX >> 1);
        $free->took(PHP_INT_MAX >> 1);
        self::assertNull($free->passed());

        $meter = new RunMeter(1_000, 500);
        $meter->read(600);
        $meter->read(400);
        $meter->took(500);
        self::assertNull($meter->passed(), 'what is reached is not passed');
        $meter->took(300);
        self::assertSame(500, $meter->us());
        $meter->read(1);
        self::assertSame(LimitMeasure::Bytes, $meter->passed());
        self::assertSame(1_001, $meter->bytes());

        $slow = new RunMeter(null, 500);
        $slow->took(501);
        self::assertSame(LimitMeasure::Time, $slow->passed());
    }

    public function test_measures_are_read_from_usage(): void
    {
        self::assertSame(
            [UsageMeasure::Scanned, UsageMeasure::InFlight, UsageMeasure::Executions, UsageMeasure::InFlight],
            array_map(static fn (LimitMeasure $one): UsageMeasure => $one->usage(), LimitMeasure::cases()),
        );
        self::assertSame([true, true, false, false], array_map(static fn (LimitMeasure $one): bool => $one->isOfOne(),
            LimitMeasure::cases()));
        $estimate = new StatementEstimate(7, 9);
        self::assertSame([7, 9, 1, null], array_map($estimate->of(...), LimitMeasure::cases()));
    }

    /**
     * @return iterable<string, array{string, int}>
     */
    public static function bytes(): iterable
    {
        yield 'bytes' => ['512 B', 512];
        yield 'thousands' => ['1.5 kB', 1_500];
        yield 'of two' => ['2 KiB', 2_048];
        yield 'without a space' => ['20GiB', 21_474_836_480];
        yield 'of any case' => [' 1 tib ', 1_099_511_627_776];
        yield 'of ten' => ['3 TB', 3_000_000_000_000];
        yield 'the most that is sensible' => ['88 PiB', 99_079_191_802_150_912];
    }

    #[DataProvider('bytes')]
    public function test_bytes_are_read_as_people_type_them(string $text, int $bytes): void
    {
        self::assertSame($bytes, TypedBytes::of($text));
    }

    /**
     * @return iterable<string, array{string}>
     */
    public static function wrongBytes(): iterable
    {
        foreach (['', 'much', '5', '0 GB', '-1 GB', '1,5 GB', '5 XB', '1 GB more', '900 PB', "1 GB\n2"] as $text) {
            yield json_encode($text, JSON_THROW_ON_ERROR) => [$text];
        }
    }

    #[DataProvider('wrongBytes')]
    public function test_what_is_no_number_of_bytes_is_said_to_be_none(string $text): void
    {
        $this->expectException(InvalidArgumentException::class);
        $this->expectExceptionMessage('is no number of bytes. Try: 500 MB');
        TypedBytes::of($text);
    }
}
