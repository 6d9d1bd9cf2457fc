<?php

declare(strict_types=1);

namespace Tests\Core\Settings;

use Fulcrion\Core\Settings\DesiredSetting;
use Fulcrion\Core\Settings\SettingRow;
use Fulcrion\Core\Settings\SettingsProfile;
use Fulcrion\Core\Settings\SettingState;
use Fulcrion\Core\Settings\SettingTable;
use Fulcrion\Core\Settings\SettingText;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What has to hold of every profile and all hosts, whatever they are.
 */
final class SettingPropertiesTest extends TestCase
{
    private const RUNS = 400;

    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(31));
    }

    public function test_what_corrects_a_value_is_right_and_changes_nothing_that_is(): void
    {
        for ($run = 0; $run < self::RUNS; $run++) {
            $wish = $this->wish();
            $value = $this->value();
            $target = $wish->target($value);
            self::assertTrue($wish->holds($target), "{$wish->said()}: {$value} is corrected by {$target}");
            self::assertTrue($wish->holds($wish->target($target)), 'corrected twice it is right still');
            if ($wish->is === [] && $wish->has === [] && ! $wish->holds($value) && is_numeric($value)) {
                // No right value lies between the wrong one and what corrects it.
                for ($part = 1; $part < 10; $part++) {
                    $between = (float) $value + ((float) $target - (float) $value) * $part / 10;
                    self::assertFalse($wish->holds((string) $between), "{$between} would have done for {$value}");
                }
            }
        }
    }

    public function test_holding_is_what_the_words_say(): void
    {
        for ($run = 0; $run < self::RUNS; $run++) {
            $wish = $this->wish();
            $value = $this->value();
            $expected = true;
            if ($wish->is !== []) {
                $expected = in_array(strtolower($value), array_map('strtolower', $wish->is), true);
            }
            foreach ($wish->has as $word) {
                $expected = $expected && preg_match('~(^|,)'.preg_quote($word, '~').'(,|$)~', $value) === 1;
            }
            if ($wish->atLeast !== null) {
                $expected = $expected && ($value === 'unlimited' || (is_numeric($value) && $value >= $wish->atLeast));
            }
            if ($wish->atMost !== null) {
                $expected = $expected && is_numeric($value) && $value <= $wish->atMost;
            }
            self::assertSame($expected, $wish->holds($value), "{$wish->said()} and {$value}");
        }
    }

    public function test_every_host_is_judged_once_and_by_the_first_entry_that_fits(): void
    {
        for ($run = 0; $run < 60; $run++) {
            $entries = [];
            foreach (['block.*.read_ahead_kb', 'vm.*', 'block.sda.*', '*'] as $name) {
                if ($this->random->getInt(0, 1) === 1) {
                    $entries[$name] = ['atLeast' => $this->random->getInt(0, 100), 'reason' => 'so'];
                }
            }
            $profile = $entries === [] ? null : SettingsProfile::read(['name' => 'x', 'settings' => $entries]);
            $profile = $profile instanceof SettingsProfile ? $profile : null;
            $hosts = [];
            for ($host = $this->random->getInt(1, 8); $host > 0; $host--) {
                foreach (['block.sda.read_ahead_kb', 'block.sdb.read_ahead_kb', 'vm.swappiness', 'fs.file-max'] as $name) {
                    if ($this->random->getInt(0, 5) > 0) {
                        $hosts["h{$host}"][$name] = $this->random->getInt(0, 6) === 0 ? null : (string) $this->random->getInt(0, 120);
                    }
                }
            }
            $table = SettingTable::of($profile, $hosts);
            $drift = [];
            foreach ($table->rows as $row) {
                $this->judge($row, $hosts, $entries);
                foreach ($row->states as $host => $state) {
                    if ($state === SettingState::Differs) {
                        $drift[(string) $host][] = $row->name;
                    }
                }
            }
            $said = array_map(static fn (array $rows): array => array_map(static fn (SettingRow $row): string => $row->name, $rows),
                $table->drift());
            ksort($drift);
            ksort($said);
            self::assertSame($drift, $said);
        }
    }

    /**
     * @param  array<string, array<string, string|null>>  $hosts
     * @param  array<string, array{atLeast: int, reason: string}>  $entries
     */
    private function judge(SettingRow $row, array $hosts, array $entries): void
    {
        $first = null;
        foreach ($entries as $pattern => $entry) {
            if (preg_match('~^'.str_replace('\*', '.*', preg_quote($pattern, '~')).'$~', $row->name) === 1) {
                $first = $entry;
                break;
            }
        }
        self::assertSame($first === null, $row->desired === null, $row->name);
        foreach ($hosts as $host => $settings) {
            if (! array_key_exists($row->name, $settings)) {
                self::assertArrayNotHasKey($host, $row->states, 'who does not have it is not judged');

                continue;
            }
            $value = $settings[$row->name];
            if ($first !== null) {
                $expected = $value === null ? SettingState::Unread
                    : ($value >= $first['atLeast'] ? SettingState::Desired : SettingState::Differs);
                self::assertSame($expected, $row->states[$host]);
            } elseif ($value !== null) {
                self::assertContains($row->states[$host], [SettingState::Alike, SettingState::Odd]);
            }
        }
    }

    public function test_the_order_of_hosts_changes_nothing(): void
    {
        $hosts = [];
        for ($host = 1; $host <= 12; $host++) {
            $hosts["fern-{$host}"] = ['vm.swappiness' => $host === 4 ? '60' : '1', 'fs.file-max' => (string) ($host % 6 === 0 ? 5 : 9)];
        }
        $turned = array_reverse($hosts, true);
        self::assertEquals(SettingTable::of(null, $hosts), SettingTable::of(null, $turned));
        self::assertSame('fern-2', SettingTable::of(null, $hosts)->hosts[1], 'by number, not by letters');
        $odd = array_filter(SettingTable::of(null, $hosts)->rows, static fn (SettingRow $row): bool => $row->differs());
        self::assertCount(2, $odd);
    }

    public function test_what_a_host_sends_never_breaks_reading_it(): void
    {
        $paths = [...array_values(SettingText::VALUES), ...array_values(SettingText::CHOICES), SettingText::MOUNTS, SettingText::LIMITS,
            SettingText::SYNCHRONISED, '/sys/block/sda/queue/scheduler', '/sys/block/sda/queue/read_ahead_kb', '/etc/passwd', ''];
        for ($run = 0; $run < self::RUNS; $run++) {
            $files = [];
            for ($i = $this->random->getInt(0, 6); $i > 0; $i--) {
                $text = $this->random->getInt(0, 4) === 0 ? null : $this->random->getBytes($this->random->getInt(1, 200));
                $files[$paths[$this->random->getInt(0, count($paths) - 1)]] = $text;
            }
            foreach (SettingText::read($files) as $name => $value) {
                self::assertNotSame('', $name);
                self::assertLessThanOrEqual(500, strlen((string) $value));
                self::assertStringStartsNotWith('/etc', $name);
            }
        }
    }

    private function wish(): DesiredSetting
    {
        $low = $this->random->getInt(-20, 50);

        return match ($this->random->getInt(0, 4)) {
            0 => new DesiredSetting('x', ['never', '5'], null, null, [], '', ''),
            1 => new DesiredSetting('x', [], null, null, ['noatime', 'nodev'], '', ''),
            2 => new DesiredSetting('x', [], (float) $low, null, [], '', ''),
            3 => new DesiredSetting('x', [], null, (float) $low, [], '', ''),
            default => new DesiredSetting('x', [], (float) $low, (float) ($low + $this->random->getInt(0, 30)), [], '', ''),
        };
    }

    private function value(): string
    {
        return match ($this->random->getInt(0, 6)) {
            0 => 'unlimited', 1 => 'NEVER', 2 => 'always', 3 => 'rw,noatime', 4 => 'rw,nodev,noatime',
            default => (string) $this->random->getInt(-40, 90),
        };
    }
}
