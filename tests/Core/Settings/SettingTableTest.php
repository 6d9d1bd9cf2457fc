<?php

declare(strict_types=1);

namespace Tests\Core\Settings;

use Fulcrion\Core\Settings\NodeSettings;
use Fulcrion\Core\Settings\SettingRow;
use Fulcrion\Core\Settings\SettingsProfile;
use Fulcrion\Core\Settings\SettingState;
use Fulcrion\Core\Settings\SettingTable;
use PHPUnit\Framework\TestCase;

final class SettingTableTest extends TestCase
{
    public function test_hosts_are_held_against_what_is_desired(): void
    {
        $table = SettingTable::of(self::profile(['vm.swappiness' => ['atMost' => 10, 'reason' => 'so']]), [
            'fern-10' => ['vm.swappiness' => '60'], 'fern-02' => ['vm.swappiness' => '1'], 'fern-03' => ['vm.swappiness' => null],
            'fern-04' => [],
        ]);
        self::assertSame(['fern-02', 'fern-03', 'fern-04', 'fern-10'], $table->hosts);
        self::assertSame(
            ['fern-02' => SettingState::Desired, 'fern-03' => SettingState::Unread, 'fern-10' => SettingState::Differs],
            $table->rows[0]->states,
            'who does not have it is not blamed, and what cannot be read is not called right',
        );
        self::assertSame(['fern-10'], array_keys($table->drift()));
        self::assertTrue($table->rows[0]->differs());
    }

    public function test_without_a_wish_the_few_are_unlike_the_many(): void
    {
        $of = static fn (string ...$values): SettingRow => SettingTable::of(null, array_map(
            static fn (string $value): array => ['fs.file-max' => $value],
            array_combine(array_map(static fn (int $host): string => "h{$host}", range(1, count($values))), $values),
        ))->rows[0];
        self::assertSame(SettingState::Odd, $of('1', '1', '1', '2')->states['h4'], 'three of four are three quarters');
        self::assertSame(SettingState::Alike, $of('1', '1', '1', '2')->states['h1']);
        self::assertFalse($of('1', '1', '2')->differs(), 'three hosts are too few to be unlike');
        self::assertFalse($of('1', '1', '1', '2', '3')->differs(), 'three of five are no three quarters');
        self::assertFalse($of('1', '1', '1', '1')->differs());
    }

    public function test_what_is_desired_stands_first(): void
    {
        $table = SettingTable::of(self::profile(['vm.b' => ['is' => 1, 'reason' => 'so']]),
            ['h' => ['vm.a' => '1', 'vm.b' => '1', 'vm.c' => '1']]);
        self::assertSame(['vm.b', 'vm.a', 'vm.c'], array_map(static fn (SettingRow $row): string => $row->name, $table->rows));
        self::assertSame([], SettingTable::of(null, [])->rows);
    }

    public function test_nodes_are_set_alike_but_where_they_are_not(): void
    {
        $nodes = NodeSettings::of(['a-01', 'a-02'],
            ['a-02' => ['vm.swappiness' => '60', 'no.such' => '1'], 'a-09' => ['vm.swappiness' => '7']]);
        self::assertSame(['a-01', 'a-02'], array_keys($nodes));
        self::assertSame('60', $nodes['a-02']['vm.swappiness']);
        self::assertSame([], array_diff_assoc($nodes['a-01'], ['vm.swappiness' => '1'] + $nodes['a-02']));
        self::assertArrayNotHasKey('no.such', $nodes['a-02']);
    }

    /**
     * @param  array<string, mixed>  $settings
     */
    private static function profile(array $settings): SettingsProfile
    {
        $profile = SettingsProfile::read(['name' => 'Nodes', 'settings' => $settings]);

        return $profile instanceof SettingsProfile ? $profile : self::fail('the profile cannot be read');
    }
}
