<?php

declare(strict_types=1);

namespace Tests\Core\Backup;

use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupHistory;
use Fulcrion\Core\Backup\BackupKind;
use Fulcrion\Core\Backup\BackupState;
use Fulcrion\Core\Backup\SchemaBackups;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class BackupHistoryTest extends TestCase
{
    private const HOUR = 3_600_000_000;

    private const DAY = 24 * self::HOUR;

    /** A letter a night: f full, i incremental, x failed, d damaged, r removed, c checked. */
    private static function nights(string $nights, string $schema = 'energy'): BackupHistory
    {
        $backups = [];
        foreach (str_split($nights) as $night => $letter) {
            if ($letter !== ' ') {
                $backups[] = self::one($letter, $night, $schema);
            }
        }

        return BackupHistory::at($backups, strlen($nights) * self::DAY);
    }

    private static function of(BackupHistory $history, string $schema): SchemaBackups
    {
        return array_column($history->bySchema($schema), null, 'schema')[$schema];
    }

    private static function one(string $letter, int $night, string $schema): Backup
    {
        return new Backup(
            'nightly',
            in_array($letter, ['i', 'b', 'j'], true) ? BackupKind::Incremental : BackupKind::Full,
            [$schema],
            $night * self::DAY + self::HOUR,
            $night * self::DAY + 2 * self::HOUR,
            100,
            '/vault',
            $letter === 'x' ? 'The disk is full.' : null,
            $letter === 'r' ? $night * self::DAY + 3 * self::HOUR : null,
            in_array($letter, ['c', 'd', 'b', 'j'], true) ? $night * self::DAY + 5 * self::HOUR : null,
            in_array($letter, ['d', 'b'], true) ? ['one.parquet differs from its checksum'] : [],
        );
    }

    /**
     * @return iterable<string, array{string, string}> nights, and what each is worth: C checked, U not checked, D damaged, B builds on
     *     nothing, R removed, F failed
     */
    public static function chains(): iterable
    {
        yield 'full ones stand alone' => ['ffcdxr', 'UUCDFR'];
        yield 'incremental ones build on a full one' => ['fii', 'UUU'];
        yield 'nothing to build on' => ['iif', 'BBU'];
        yield 'one that failed is built on by nobody' => ['fixi', 'UUFU'];
        yield 'one that failed first leaves nothing to build on' => ['xi', 'FB'];
        yield 'what builds on a damaged one is worth nothing until the next full one' => ['fdiifi', 'UDBBUU'];
        yield 'a damaged incremental one breaks the rest' => ['fibiif', 'UUDBBU'];
        yield 'one that was removed breaks what builds on it' => ['friif', 'URBBU'];
        yield 'a checked one still needs what it builds on' => ['dj', 'DB'];
        yield 'and is checked where that is whole' => ['fj', 'UC'];
    }

    #[DataProvider('chains')]
    public function test_an_incremental_backup_is_as_good_as_all_it_builds_on(string $nights, string $expected): void
    {
        $letters = ['C' => BackupState::Checked, 'U' => BackupState::Unchecked, 'D' => BackupState::Damaged, 'B' => BackupState::Baseless,
            'R' => BackupState::Removed, 'F' => BackupState::Failed];
        self::assertSame(array_map(static fn (string $one): BackupState => $letters[$one], str_split($expected)),
            self::nights($nights)->states);
    }

    public function test_plans_do_not_build_on_each_other(): void
    {
        $full = self::one('f', 0, 'ref');
        $other = new Backup('hourly', BackupKind::Incremental, ['ref'], self::DAY, self::DAY + 1);
        self::assertSame([BackupState::Unchecked, BackupState::Baseless], BackupHistory::at([$other, $full], 2 * self::DAY)->states);
    }

    public function test_what_is_not_over_at_the_moment_is_not_there_and_what_was_removed_later_is(): void
    {
        $backups = [self::one('r', 0, 'ref'), self::one('f', 1, 'ref')];
        $at = static fn (int $us): array => BackupHistory::at($backups, $us)->states;
        self::assertSame([], $at(2 * self::HOUR - 1));
        self::assertSame([BackupState::Unchecked], $at(2 * self::HOUR));
        self::assertSame([BackupState::Removed], $at(3 * self::HOUR));
        self::assertSame([BackupState::Removed, BackupState::Unchecked], $at(2 * self::DAY));
        $kept = static fn (int $us): array => BackupHistory::at($backups, $us)->keptBytes();
        self::assertSame([[], ['nightly' => 100.0], [], ['nightly' => 100.0]],
            [$kept(self::HOUR), $kept(2 * self::HOUR), $kept(3 * self::HOUR), $kept(self::DAY + 2 * self::HOUR)]);
    }

    /**
     * @return iterable<string, array{string, int|null, bool, int}> nights; hours since the newest good one began; late; bad since
     */
    public static function ages(): iterable
    {
        yield 'every night' => ['ffff', 23, false, 0];
        yield 'the last one failed' => ['fffx', 47, false, 1];
        yield 'the last two failed: more than twice the usual' => ['ffffxx', 71, true, 2];
        yield 'none was tried' => ['ffff  ', 71, true, 0];
        yield 'every third night, and in time' => ['f  f  f  f     ', 143, false, 0];
        yield 'every third night, and late' => ['f  f  f  f      ', 167, true, 0];
        yield 'never' => ['xxd', null, true, 3];
        yield 'nothing at all' => ['  ', null, true, 0];
        yield 'damaged are not good' => ['cdd', 71, true, 2];
        yield 'fresh, of few' => ['f', 23, false, 0];
    }

    #[DataProvider('ages')]
    public function test_the_newest_good_one_is_late_beyond_twice_what_is_usual(string $nights, ?int $hours, bool $isLate, int $bad): void
    {
        $schema = self::of(self::nights($nights), 'energy');
        self::assertSame($hours === null ? null : $hours * self::HOUR, $schema->ageUs());
        self::assertSame($isLate, $schema->isLate());
        self::assertSame($bad, $schema->badSince());
    }

    public function test_what_is_usual_is_the_middle_of_what_lies_between_and_a_day_where_little_is_known(): void
    {
        $full = static fn (int $hour): Backup => new Backup('p', BackupKind::Full, ['s'], $hour * self::HOUR, $hour * self::HOUR);
        $at = static fn (int ...$hours): SchemaBackups => self::of(BackupHistory::at(array_map($full, array_values($hours)),
            1_000 * self::HOUR), 's');
        self::assertSame(24 * self::HOUR, $at(0, 6, 12)->usualUs());
        self::assertSame(6 * self::HOUR, $at(0, 6, 12, 20)->usualUs());
        self::assertSame(6 * self::HOUR, $at(0, 6, 6, 12, 18)->usualUs(), 'two at once are one');
        // Hours apart, one is late only where a night is over without one.
        $hourly = static fn (int $since): bool => self::of(BackupHistory::at(array_map($full, range(0, 9)), (9 + $since) * self::HOUR), 's')
            ->isLate();
        self::assertFalse($hourly(36));
        self::assertTrue($hourly(37));
    }

    public function test_days_show_the_best_that_began_on_them_and_the_worst_schema_comes_first(): void
    {
        $days = array_map(static fn (int $day): int => $day * self::DAY, range(1, 4));
        $backups = [
            ...array_map(static fn (int $day): Backup => self::one('f', $day, 'ref'), range(0, 4)),
            self::one('x', 1, 'energy'),
            new Backup('again', BackupKind::Full, ['energy', 'ref'], self::DAY + 5 * self::HOUR, self::DAY + 6 * self::HOUR),
            self::one('d', 3, 'energy'),
        ];
        $history = BackupHistory::at($backups, 5 * self::DAY);
        $shown = array_map(static fn (?array $one): ?BackupState => $one[0] ?? null, self::of($history, 'energy')->byDay($days));
        self::assertSame([BackupState::Unchecked, null, BackupState::Damaged, null], $shown);
        self::assertSame(['people', 'energy', 'ref'], array_map(static fn (SchemaBackups $one): string => $one->schema,
            $history->bySchema('ref', 'people')), 'what none holds comes first');
        self::assertSame('again', self::of($history, 'energy')->newest()?->plan);
        self::assertSame(3 * self::DAY + self::HOUR, self::of($history, 'energy')->lastTried()?->startedUs);
        self::assertNull(self::of($history, 'ref')->lastTried());
    }

    /** Against another way to say it: one can be restored from where it and all since its last full one are there and whole. */
    public function test_random_histories_agree_with_walking_back_from_each_backup(): void
    {
        $random = new Randomizer(new Mt19937(9));
        for ($case = 0; $case < 400; $case++) {
            $nights = '';
            for ($night = 0; $night < 20; $night++) {
                $nights .= 'ffiiiixdbrcj '[$random->getInt(0, 12)];
            }
            $history = self::nights($nights);
            $letters = str_replace(' ', '', $nights);
            foreach ($history->states as $place => $state) {
                self::assertSame(self::canBeRestored($letters, $place), $state->isGood(), "{$nights}, {$place}");
            }
        }
    }

    private static function canBeRestored(string $letters, int $place): bool
    {
        if ($letters[$place] === 'x') {
            return false;
        }
        for (; $place >= 0; $place--) {
            $letter = $letters[$place];
            if (in_array($letter, ['d', 'b', 'r'], true)) {
                return false;
            }
            if (in_array($letter, ['f', 'c'], true)) {
                return true;
            }
        }

        return false;
    }
}
