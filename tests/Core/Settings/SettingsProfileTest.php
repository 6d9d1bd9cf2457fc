<?php

declare(strict_types=1);

namespace Tests\Core\Settings;

use Fulcrion\Core\Settings\DesiredSetting;
use Fulcrion\Core\Settings\SettingProblem;
use Fulcrion\Core\Settings\SettingsProfile;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class SettingsProfileTest extends TestCase
{
    /**
     * @return iterable<string, array{array<string, mixed>, string, bool, string}> fields, value, whether it holds, what corrects it
     */
    public static function values(): iterable
    {
        yield 'one of a list' => [['is' => ['madvise', 'never']], 'never', true, 'madvise'];
        yield 'none of a list' => [['is' => ['madvise', 'never']], 'always', false, 'madvise'];
        yield 'letters of either size' => [['is' => 'ON'], 'on', true, 'ON'];
        yield 'a number as a word' => [['is' => 0], '0', true, '0'];
        yield 'another number' => [['is' => 0], '1', false, '0'];
        yield 'exactly the least' => [['atLeast' => 65536], '65536', true, '65536'];
        yield 'one below the least' => [['atLeast' => 65536], '65535', false, '65536'];
        yield 'without limit' => [['atLeast' => 65536], 'unlimited', true, '65536'];
        yield 'without limit, which is too much' => [['atMost' => 100], 'unlimited', false, '100'];
        yield 'exactly the most' => [['atMost' => 10], '10', true, '10'];
        yield 'one above the most' => [['atMost' => 10], '11', false, '10'];
        yield 'below both' => [['atLeast' => 5, 'atMost' => 10], '2', false, '5'];
        yield 'above both' => [['atLeast' => 5, 'atMost' => 10], '12', false, '10'];
        yield 'a fraction' => [['atMost' => 0.5], '0.75', false, '0.5'];
        yield 'no number' => [['atLeast' => 5], 'many', false, '5'];
        yield 'an option that is there' => [['has' => 'noatime'], 'rw,noatime', true, 'rw,noatime'];
        yield 'an option that is missing' => [['has' => ['noatime', 'nodev']], 'rw,nodev', false, 'rw,nodev,noatime'];
        yield 'a part of an option' => [['has' => 'atime'], 'rw,noatime', false, 'rw,noatime,atime'];
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    #[DataProvider('values')]
    public function test_a_value_holds_or_not(array $fields, string $value, bool $holds, string $target): void
    {
        $desired = self::profile(['vm.x' => $fields + ['reason' => 'so']])->settings[0];
        self::assertSame($holds, $desired->holds($value));
        if (! $holds) {
            self::assertSame($target, $desired->target($value));
        }
        self::assertTrue($desired->holds($desired->target($value)), 'what corrects it is as desired');
    }

    public function test_the_first_entry_that_fits_counts(): void
    {
        $profile = self::profile([
            'block.sda.read_ahead_kb' => ['is' => 128, 'reason' => 'a disk for logs'],
            'block.*.read_ahead_kb' => ['atLeast' => 4096, 'reason' => 'reads from end to end'],
        ]);
        self::assertSame('128', $profile->of('block.sda.read_ahead_kb')?->said());
        self::assertSame('at least 4096', $profile->of('block.nvme0n1.read_ahead_kb')?->said());
        self::assertNull($profile->of('block.sda.scheduler'));
        self::assertSame('with noatime, at least 1, at most 2.5', (new DesiredSetting('x', [], 1.0, 2.5, ['noatime'], '', ''))->said());
    }

    /**
     * @return iterable<string, array{array<mixed>, list<non-empty-string>}>
     */
    public static function wrong(): iterable
    {
        yield 'nothing' => [[], ['name: it has', 'settings: it has to be a map']];
        yield 'a list' => [['name' => 'x', 'settings' => ['vm.x']], ['settings: it has to be a map']];
        yield 'a word' => [self::one('never'), ['vm.x: it has to be a map']];
        yield 'nothing wanted' => [self::one(['reason' => 'so']), ['vm.x: it says nothing that is wanted']];
        yield 'no reason' => [self::one(['is' => 1]), ['vm.x, reason: it has to be a text']];
        yield 'a blank reason' => [self::one(['is' => 1, 'reason' => ' ']), ['vm.x, reason: it has to be a text']];
        yield 'another field' => [self::one(['is' => 1, 'reason' => 'so', 'wants' => 2]), ['vm.x, wants: it is not known']];
        yield 'a text as a bound' => [self::one(['atLeast' => 'many', 'reason' => 'so']), ['vm.x, atLeast: it has to be a number']];
        yield 'bounds that cross' => [self::one(['atLeast' => 3, 'atMost' => 2, 'reason' => 'so']), ['vm.x, atLeast: it is above atMost']];
        yield 'a map as a value' => [self::one(['is' => ['a' => ['b']], 'reason' => 'so']), ['vm.x, is: it has to be a value']];
        yield 'an empty list' => [self::one(['is' => [], 'reason' => 'so']), ['vm.x, is: it has to be a value']];
        yield 'another part' => [['name' => 'x', 'hosts' => [], 'settings' => ['vm.x' => ['is' => 1, 'reason' => 'so']]],
            ['hosts: it is not known here']];
        yield 'several at once' => [['name' => '', 'settings' => ['vm.x' => 1, 'vm.y' => ['is' => 1]]],
            ['name: it has', 'vm.x: it has', 'vm.y, reason']];
    }

    /**
     * @param  array<mixed>  $data
     * @param  list<non-empty-string>  $said
     */
    #[DataProvider('wrong')]
    public function test_what_cannot_be_read_is_named(array $data, array $said): void
    {
        $problems = SettingsProfile::read($data);
        self::assertIsArray($problems);
        self::assertCount(count($said), $problems);
        foreach ($problems as $place => $problem) {
            self::assertStringStartsWith($said[$place], $problem->said());
        }
    }

    /**
     * @return array<string, mixed>
     */
    private static function one(mixed $fields): array
    {
        return ['name' => 'x', 'settings' => ['vm.x' => $fields]];
    }

    /**
     * @param  array<string, mixed>  $settings
     */
    private static function profile(array $settings): SettingsProfile
    {
        $profile = SettingsProfile::read(['name' => 'Nodes', 'settings' => $settings]);
        self::assertInstanceOf(SettingsProfile::class, $profile, implode(' ', array_map(
            static fn (SettingProblem $one): string => $one->said(),
            is_array($profile) ? $profile : [],
        )));

        return $profile;
    }
}
