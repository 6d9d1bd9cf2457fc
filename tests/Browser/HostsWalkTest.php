<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverKeys;

/**
 * What the machines can do, how they are set, what they store and what is brought to them.
 */
final class HostsWalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const ENGINEER = 'idris@brackenfold.example';

    private function main(): string
    {
        return $this->find('main')->getText();
    }

    /** All findings of a cluster, page by page. */
    private function findings(string $cluster): string
    {
        $text = '';
        for ($page = 1; $page < 5; $page++) {
            $this->open("/ledger/findings?cluster={$cluster}&page={$page}");
            $text .= $this->main();
        }

        return $text;
    }

    public function test_hosts_that_are_set_otherwise_are_found_corrected_and_set_back(): void
    {
        $this->signIn(self::ENGINEER);
        $all = $this->findings('fernhill');
        self::assertStringContainsString('limit.open_files is 1024 on fern-11', $all);
        self::assertStringContainsString('2 settings of fern-04 are not as desired', $all);
        self::assertStringNotContainsString('not as desired', str_replace('2 settings of fern-04 are not as desired', '', $all));
        $this->open('/ledger/findings?cluster=fernhill&rule=setting');
        $this->click($this->link('2 settings of fern-04 are not as desired'));
        self::assertStringContainsString('make single statements wait', $this->main());
        $this->click($this->button('Propose the change that sets them as desired'));
        self::assertStringContainsString('Set 2 settings on fern-04 as desired', $this->heading());
        $this->slowly($this->button('Rehearse'));
        $this->click($this->button('Approve'));
        $this->slowly($this->button('Apply on Fernhill'));
        self::assertStringContainsString('It is applied.', $this->main());
        $this->open('/tend/settings?cluster=fernhill');
        self::assertSame('fern-11 differs from the desired profile, 11 other hosts do not', $this->heading());
        $this->click($this->link('Set 2 settings on fern-04 as desired'));
        $this->slowly($this->button('Undo'));
        self::assertStringContainsString('It was undone', $this->main());
        $this->open('/tend/settings?cluster=fernhill');
        self::assertSame('fern-04 and fern-11 differ from the desired profile, the other 10 do not', $this->heading());
        $this->open('/tend/settings?cluster=wren');
        self::assertSame('All 4 hosts are set as desired', $this->heading(), 'nobody else is accused');
    }

    public function test_how_hosts_should_be_is_written_with_a_wrong_turn(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tend/settings?cluster=wren');
        $this->click($this->link('How they should be'));
        $this->find('#profile-text')->clear()->sendKeys("name: Ours\nsettings:\n  vm.swappiness:\n    atMost: many\n    reason: so\n");
        $this->click($this->button('Save, and hold all hosts against it'));
        self::assertStringContainsString('Line 4: vm.swappiness, atMost: it has to be a number.', $this->main());
        self::assertStringContainsString('atMost: many', (string) $this->find('#profile-text')->getAttribute('value'),
            'what was typed is there still');
        $this->find('#profile-text')->clear()->sendKeys("name: Ours\nsettings:\n  vm.swappiness:\n    atLeast: 5\n    reason: so\n");
        $this->click($this->button('Save, and hold all hosts against it'));
        self::assertSame('4 hosts differ from the desired profile', $this->heading());
        self::assertStringContainsString('How they should be: Ours', $this->main());
        self::assertStringContainsString('sysctl -w vm.swappiness=5', $this->driver()->getPageSource());
        $this->click($this->link('How they should be'));
        $this->click($this->button('Go back to the profile that ships with Fulcrion'));
        $this->click($this->button('and the one that ships with Fulcrion holds'));
        $this->open('/tend/settings?cluster=wren');
        self::assertSame('All 4 hosts are set as desired', $this->heading());
        // As it was on a day, and what became otherwise since.
        $this->open('/tend/settings?cluster=fernhill&window=last+28+days');
        self::assertMatchesRegularExpression('~fern-11 limit\.open_files 1048576 1024~', $this->main());
        $this->find('#setting-name')->sendKeys('swappiness');
        $this->press(WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_contains($this->main(), 'Settings with swappiness'), 'only those are listed');
    }

    public function test_the_day_the_storage_is_full_and_what_could_go_are_found(): void
    {
        $this->signIn(self::OWNER);
        $all = $this->findings('fernhill');
        self::assertMatchesRegularExpression('~The storage of Fernhill will be full in about (4|5|6) weeks~', $all);
        self::assertMatchesRegularExpression('~Fernhill answered nobody for about (9|1[0-4]) minutes~', $all);
        self::assertStringContainsString('The delivery “nightly” uses 10% of the link', $all);
        self::assertStringNotContainsString('“prices”', $all);
        $this->open('/tend/storage');
        self::assertMatchesRegularExpression('~^The storage of Fernhill will be full in about (4|5|6) weeks\. Fernhill answered nobody for '
            .'(9|1[0-4]) minutes~', $this->heading());
        self::assertStringContainsString('old versions of trade.pallet_shipment', $this->main());
        $this->click($this->link('old versions of trade.pallet_shipment keep files'));
        $this->button('Propose the change that fixes it');
        $this->open('/tend/storage?cluster=wren');
        self::assertStringNotContainsString('will be full', $this->heading());
        $this->open('/tend/loading');
        self::assertMatchesRegularExpression('~The delivery “nightly” uses 10% of the link; 1[01] streams would bring it in~',
            $this->heading());
    }

    public function test_a_schema_without_a_good_backup_is_seen_and_a_backup_is_really_checked(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tend/clusters');
        self::assertMatchesRegularExpression('~9 d \d+ h ago\s+energy~', $this->main());
        $this->click($this->link('9 d'));
        self::assertMatchesRegularExpression('~^Schema energy of Fernhill has had no good backup for 9 d~', $this->heading());
        self::assertStringContainsString('differs from its checksum', $this->main());
        self::assertStringContainsString('energy.tariff_2025 does not exist', $this->main());
        $this->slowly($this->button('Check'));
        self::assertMatchesRegularExpression('~The last check read .*files agree, none differs~', $this->main());
        $this->slowly($this->button('Forget'));
        self::assertStringContainsString('Its files were not touched', $this->main());
    }

    public function test_this_host_is_really_measured_and_a_profile_of_its_server_is_taken(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tend/baseline?cluster=own-store');
        $this->find('#measure-seconds')->clear()->sendKeys('1');
        $this->find('#measure-space')->clear()->sendKeys('16 MB');
        $this->find('#measure-load')->clear()->sendKeys('8');
        $this->slowly($this->button('Measure it'));
        self::assertStringContainsString('reads/s', $this->main());
        $this->open('/tend/baseline?cluster=fernhill');
        self::assertStringContainsString('50% of the others', $this->main(), 'the slow disk of fern-07');
        $this->open('/tend/profiles');
        $this->find('#server-seconds')->clear()->sendKeys('1');
        $this->find('#engine-sql')->sendKeys('SELECT medium, count(*) FROM energy.meter_reading GROUP BY medium');
        $this->slowly($this->button('Run it and take it'));
        self::assertStringContainsString('of the time is spent in', $this->heading());
        self::assertNotEmpty($this->texts('svg .icicle-name'));
        $this->assertFitForEverybody(['/tend/baseline?cluster=fernhill', '/tend/storage', '/tend/backups', '/tend/loading',
            '/tend/settings', '/tend/settings/fernhill/profile', '/tend/profiles',
            substr($this->address(), (int) strpos($this->address(), '/', 8))]);
    }
}
