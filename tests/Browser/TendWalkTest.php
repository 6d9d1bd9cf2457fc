<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverKeys;

/**
 * Somebody calls at nine and says that it is slow.
 */
final class TendWalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    private function main(): string
    {
        return $this->find('main')->getText();
    }

    public function test_the_slow_disk_is_found_without_knowing_where_to_look(): void
    {
        self::artisan('health:judge');
        $this->signIn(self::OWNER);
        $this->open('/ledger/findings?cluster=fernhill');
        self::assertMatchesRegularExpression('~The disks of fern-07 take (1\.9\d?|2|2\.0\d?) times as long~', $this->main());
        $this->open('/tend/beside');
        self::assertStringContainsString('The disks of fern-07 take', $this->heading());
        self::assertSame(['fern-07'], $this->texts('.strip.odd a'), 'and nobody else');
        $this->following(fn () => $this->find('.strip.odd a')->click());
        self::assertStringStartsWith('fern-07 was', $this->heading());
        $this->click($this->link('its neighbours'));
        self::assertStringContainsString('/tend/beside', $this->address());
        // The node that has more of a table than the others has more work, and is not sick.
        $this->open('/tend/beside?measure=disk');
        self::assertStringContainsString('times as much as the hosts beside it', $this->heading());
        self::assertSame([], $this->texts('.strip.odd a'));
        // Six hours in which nobody read Wren are a gap, and told.
        $this->open('/ledger/findings?cluster=wren');
        self::assertMatchesRegularExpression('~Nothing is known of 4 hosts of Wren from .* for 6 h~', $this->main());
    }

    public function test_is_it_the_system_is_answered_for_a_monday_and_for_a_complaint(): void
    {
        $this->signIn(self::VIEWER);
        $this->open('/tend/system');
        $this->find('#system-at')->sendKeys('monday 08:00');
        $this->press(WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_contains($this->heading(), 'It is the system: the probe took'), 'the Monday is told');
        self::assertStringContainsString('forecast_lab had most at work', $this->heading());
        self::assertStringContainsString('at=monday 08:00', urldecode($this->address()), 'it can be sent to somebody');
        self::assertCount(1, $this->texts('svg .ring'));
        // Thursday of the last week: their own statement.
        $thursday = strtotime('last thursday', time() + 86_400);
        $isTooEarly = gmdate('Y-m-d', $thursday) === gmdate('Y-m-d') && (int) gmdate('G') < 12;
        $day = gmdate('Y-m-d', $isTooEarly ? $thursday - 7 * 86_400 : $thursday);
        $this->open("/tend/system?at={$day}+11:02&account=energy_desk");
        self::assertMatchesRegularExpression('~^It is this statement: it read [23]\d(\.\d)? times as much as usual, and the probe was '
            .'steady$~', $this->heading());
        self::assertStringContainsString('What took longer than usual', $this->main());
        $this->open('/tend/system?at=soon');
        self::assertStringContainsString('"soon" is not a moment. Try: monday 08:40', $this->main());
        self::assertStringContainsString('Engineers set probes', $this->main());
        $this->assertFitForEverybody(['/tend/system?at=monday+08:00', '/tend/beside']);
    }

    public function test_a_moment_from_all_clusters_down_to_one_file(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tend/clusters');
        $this->eventually(fn (): bool => count($this->texts('svg.nodes-row')) >= 2, 'the clusters are drawn');
        $this->find('#clusters-at')->sendKeys('monday 08:05');
        $this->press(WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_contains($this->main(), 'struggles: the probe takes'), 'as it was on Monday');
        $monday = gmdate('Y-m-d', (int) strtotime('last monday'));
        $this->open("/tend/time?window={$monday}+06:00-10:00");
        self::assertStringContainsString('Fernhill had', $this->heading());
        self::assertStringContainsString('What moved with it', $this->main());
        // A press on a chart is a moment, by key as well; a drag over it a window.
        $chart = $this->find('.over figure .scroll');
        $chart->sendKeys(WebDriverKeys::HOME);
        for ($i = 0; $i < 24; $i++) {
            $chart->sendKeys(WebDriverKeys::ARROW_RIGHT);
        }
        self::assertStringContainsString('08:00–08:05', $this->find('.over .reading-line')->getText());
        $this->following(fn () => $chart->sendKeys(WebDriverKeys::ENTER));
        self::assertStringContainsString("at={$monday} 08:00", urldecode($this->address()));
        self::assertStringContainsString('08:00', $this->find('.over aside h2')->getText());
        self::assertStringContainsString('window='.$monday, urldecode($this->address()), 'the window stays');
        $svg = $this->find('.over figure svg');
        $width = $svg->getSize()->getWidth();
        $this->driver()->action()->moveToElement($svg, (int) (-$width / 4), 0)->clickAndHold()
            ->moveToElement($svg, (int) ($width / 4), 0)->release()->perform();
        $this->eventually(fn (): bool => preg_match('~window=\d{4}-\d\d-\d\d 0[67]:\d\d-0[89]:\d\d~', urldecode($this->address())) === 1,
            'the window is what was drawn over');
        self::assertStringContainsString('08:00', $this->find('.over aside h2')->getText(), 'the moment stays');
        $this->click($this->link('All that is known'));
        self::assertStringContainsString('it is the system', $this->heading());
        self::assertNotEmpty($this->texts('main tbody tr'));
        $file = $this->driver()->executeAsyncScript('const done = arguments[0]; '
            .'fetch(document.querySelector("a[href*=\'/moment/file\']").href)'
            .'.then((answer) => answer.text().then((text) => done([answer.headers.get("Content-Disposition"), text])));');
        self::assertMatchesRegularExpression('~^attachment; filename="fernhill-\d{8}-\d{6}\.html"$~', (string) $file[0]);
        self::assertStringContainsString('it is the system', (string) $file[1]);
        self::assertDoesNotMatchRegularExpression('~<script|https?://(?!www\.w3\.org)~', (string) $file[1]);
        $this->assertFitForEverybody(['/tend/time', '/tend/moment?at=monday+08:05']);
    }

    public function test_a_probe_is_set_and_monitoring_is_looked_through(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tend/system?cluster=wren');
        self::assertStringContainsString('Nobody knows', $this->heading());
        $this->find('#p-statement')->sendKeys('DELETE FROM ref.bay');
        $this->slowly($this->button('Try and set it'));
        self::assertStringContainsString('A probe only reads: write one SELECT.', $this->main());
        $this->find('#p-statement')->clear()->sendKeys('SELECT count(*) AS bays FROM ref.bay');
        $this->slowly($this->button('Try and set it'));
        self::assertStringContainsString('The probe is set. Its first run took', $this->main());
        $this->slowly($this->button('Switch it off'));
        self::assertStringContainsString('It is off.', $this->main());
        $this->open('/tend/setup/fernhill');
        $this->slowly($this->button('Read now and compare'));
        self::assertStringContainsString('All of it agrees.', $this->main());
        $this->open('/tend/sources');
        self::assertStringContainsString('agent --url=', $this->main());
        $this->find('#s-host')->sendKeys('fern-99');
        $this->find('#s-address')->sendKeys('http://169.254.169.254/metrics');
        $this->slowly($this->button('Add and ask'));
        self::assertStringContainsString('which is this machine or one of its own services', $this->main());
        $this->assertFitForEverybody(['/tend/setup/fernhill', '/tend/sources']);
    }

    public function test_this_host_lives_and_stands_still_when_it_is_asked_to(): void
    {
        self::artisan('metrics:read-host');
        $this->signIn(self::VIEWER);
        $this->open('/tend/live');
        self::assertMatchesRegularExpression('~ is [\d.]+% busy$~', $this->heading());
        $second = fn (): string => $this->find('#live p.quiet')->getText();
        $before = $second();
        $this->eventually(static fn (): bool => $second() !== $before, 'it goes on by itself');
        $this->find('#live button')->click();
        $this->eventually(fn (): bool => $this->find('#live button')->getText() === 'Resume', 'it is paused');
        $still = $second();
        usleep(2_600_000);
        self::assertSame($still, $second());
        $this->find('#live button')->click();
        $this->eventually(static fn (): bool => $second() !== $still, 'and goes on');
    }
}
