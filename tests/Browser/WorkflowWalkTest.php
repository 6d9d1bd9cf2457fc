<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * The troubles that lie in the layout of Fernhill are found, fixed by clicking and proven.
 */
final class WorkflowWalkTest extends BrowserTestCase
{
    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    /**
     * @return iterable<string, array{string, string, string}>
     */
    public static function troubles(): iterable
    {
        yield '8: too many partitions' => ['too-many-partitions', 'ref.calendar_day splits', 'chunks'];
        yield '7: no statistics' => ['missing-statistics', 'trade.price_offer never had', 'estimate'];
        yield '7: old statistics' => ['stale-statistics', 'Statistics of trade.pallet_shipment', 'estimate'];
        yield '6: large and copied' => ['copied-large', 'trade.pallet_shipment is copied', 'time'];
        yield '3: skew' => ['skew', 'field.harvest_pick is placed', 'time'];
        yield '5: the same groups again and again' => ['repeated-groups', 'sum the same groups of field.climate_reading', 'time'];
        yield '15: joined only to filter' => ['joined-to-filter', 'join ref.calendar_day by day', 'time'];
        yield '14: a wrapped filter' => ['hidden-column', 'hides read_at', 'some time'];
        yield '4: tiny chunks in no order' => ['poor-order', 'field.climate_reading would read', 'bytes'];
    }

    #[DataProvider('troubles')]
    public function test_a_trouble_is_found_fixed_and_proven(string $rule, string $words, string $gain): void
    {
        $this->signIn(self::ENGINEER);
        $this->open("/ledger/findings?cluster=fernhill&rule={$rule}");
        $this->click($this->link($words));
        self::assertStringContainsString($words, $this->heading());
        $this->slowly($this->button('Propose the change that fixes it'));
        self::assertStringContainsString('touches nothing yet', $this->find('main')->getText());
        $this->slowly($this->button('Rehearse'));
        self::assertStringContainsString('every result stayed the same', $this->find('main')->getText(), $this->find('main')->getText());
        $this->click($this->button('Approve'));
        $this->slowly($this->button('Apply on Fernhill'));
        self::assertStringContainsString('It is applied.', $this->find('main')->getText());
        $this->click($this->link('all results are equal'));
        $sum = array_map(static fn (string $cell): array => explode("\n", $cell), $this->texts('tr.sum td'));
        self::assertSame([], $this->driver()->findElements(WebDriverBy::cssSelector('tr.sum .bad-text')));
        $number = static fn (string $text): float => (float) str_replace([' ', "\u{202F}", "\u{A0}"], '', $text);
        $size = static function (string $text) use ($number): float {
            $units = [
                'B' => 1,
                'KiB' => 1024,
                'MiB' => 1024 ** 2,
                'GiB' => 1024 ** 3,
                'TiB' => 1024 ** 4,
                'µs' => 1,
                'ms' => 1e3,
                's' => 1e6,
                'min' => 6e7,
            ];
            preg_match('~^(.*?)\s*(B|KiB|MiB|GiB|TiB|µs|ms|s|min)( .*)?$~u', $text, $match);

            return $number($match[1] ?? $text) * ($units[$match[2] ?? 'B'] ?? 1);
        };
        $estimates = $this->texts('.proof-table tr:not(.sum) td:nth-child(9)');
        match ($gain) {
            'chunks' => self::assertLessThan($number($sum[5][0]), $number($sum[5][1])),
            'bytes' => self::assertLessThan(0.7 * $size($sum[4][0]), $size($sum[4][1])),
            // How much depends on where the span of the statement lies among the chunks there are at this time of day: by night it may
            // be less than is shown, but never more.
            'some time' => self::assertLessThanOrEqual($size($sum[1][0]), $size($sum[1][1])),
            'time' => self::assertLessThan(0.95 * $size($sum[1][0]), $size($sum[1][1])),
            // The worst of all may be another table's: together they shrink.
            default => self::assertLessThan(
                ...array_map(
                    static fn (int $side): float => array_sum(
                        array_map(static fn (string $cell): float => $number(explode("\n", $cell)[$side]), $estimates),
                    ),
                    [0, 1],
                ),
            ),
        };
        $this->click($this->link('One file to hand on'));
        self::assertStringContainsString('<svg', $this->downloaded('proof-'.basename($this->address()).'.html'));
    }

    public function test_what_was_fixed_is_solved_at_the_next_audit_and_undoing_brings_the_old_table_back(): void
    {
        self::artisan('storage:audit', 'fernhill');
        $this->signIn(self::ENGINEER);
        $this->open('/ledger/findings?cluster=fernhill&state=solved');
        $solved = implode(' ', $this->texts('td.problem'));
        foreach (
            [
                'field.harvest_pick is placed',
                'trade.price_offer never had',
                'ref.calendar_day splits',
                'trade.pallet_shipment is copied',
            ] as $words
        ) {
            self::assertStringContainsString($words, $solved);
        }
        $this->open('/ledger/changes?words=harvest_pick&state=applied');
        $this->click($this->link('Place field.harvest_pick'));
        [$before, $after] = explode("\n", $this->driver()->findElement(WebDriverBy::xpath('//tr[th="contents"]/td'))->getText());
        self::assertSame(strtok($before, ' '), strtok($after, ' '));
        $this->slowly($this->button('Undo'));
        self::assertStringContainsString('It was undone', $this->find('main')->getText());
        self::assertSame(
            strtok($before, ' '),
            strtok($this->driver()->findElement(WebDriverBy::xpath('//tr[th="contents"]/td'))->getText(), ' '),
        );
        $this->click($this->link('field.harvest_pick'));
        self::assertStringContainsString('by grade', $this->find('.facts')->getText());
        // The round tells what came back and what was solved.
        $this->press('r');
        self::assertStringContainsString('need', $this->heading());
    }

    public function test_space_for_rollups_is_moved_and_what_is_kept_is_told(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/rollups?cluster=fernhill&table=field.harvest_pick');
        $slider = $this->find('#space');
        $shown = fn (): string => implode('', $this->texts('[data-budget-set]'));
        $before = $shown();
        $this->driver()->executeScript('arguments[0].value = 0; arguments[0].dispatchEvent(new Event("input", {bubbles: true}))', [
            $slider,
        ]);
        self::assertStringContainsString('Without space nothing is kept', $shown());
        self::assertNotSame($before, $shown());
        self::assertStringContainsString('space=0.000', $this->address());
        $slider->sendKeys(str_repeat(WebDriverKeys::ARROW_RIGHT, 9));
        self::assertStringContainsString('would answer', $shown());
        $this->click($this->button('Propose these rollups'));
        self::assertStringContainsString('touches nothing yet', $this->find('main')->getText());
        $this->open('/tune/rollups?cluster=fernhill');
        self::assertMatchesRegularExpression('~(One rollup or lookup|\d+ rollups and lookups) of Fernhill~', $this->heading());
        self::assertStringContainsString('calendar_day_by_day', $this->find('main')->getText());
    }

    public function test_a_sample_is_stored_every_way_and_a_statement_shows_what_the_planner_made_of_it(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/encodings?table=fernhill:ref.bay');
        $this->slowly($this->button('Store a sample every way'));
        self::assertStringContainsString('ref.bay would take', $this->heading());
        $this->open($this->address().'?aim=smallest&order=as+it+comes');
        self::assertStringContainsString('ways, smallest first', $this->find('main')->getText());
        $lab = parse_url($this->address(), PHP_URL_PATH);
        $this->open('/tune/rewrites');
        $this->write(
            'rewrite-sql',
            'SELECT b.name, (SELECT count(*) FROM field.harvest_pick p WHERE p.bay_id = b.bay_id AND p.picked_at >= timestamp '
                ."'2026-01-01 00:00:00') AS picks FROM ref.bay b WHERE b.bay_id < 4",
        );
        $this->slowly($this->button('Look at it'));
        $this->until('.advice .state');
        self::assertStringContainsString('The planner rewrote it in', $this->heading());
        self::assertStringContainsString('equal, 3 rows', $this->find('.advice')->getText());
        $rewrites = parse_url($this->address(), PHP_URL_PATH);
        $this->open('/tune/tuning');
        $this->find('#tuning-gib')->clear();
        $this->find('#tuning-gib')->sendKeys('0');
        $this->find('#tuning-minutes')->clear();
        $this->find('#tuning-minutes')->sendKeys('1');
        $this->slowly($this->button('Start the run'));
        self::assertStringContainsString('times less', $this->heading(), $this->find('main')->getText());
        self::assertStringContainsString('more than was left of', $this->find('main')->getText());
        $this->assertFitForEverybody([
            '/tune/rollups?cluster=fernhill',
            '/tune/encodings',
            "{$lab}",
            '/tune/indexes',
            "{$rewrites}",
            '/tune/tuning',
            (string) parse_url($this->address(), PHP_URL_PATH),
        ]);
    }

    public function test_tables_are_looked_at_filtered_and_advised_on_with_keys_and_without_violations(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/layout?cluster=fernhill');
        self::assertStringContainsString('could be laid out better', $this->heading());
        self::assertGreaterThan(10, count($this->driver()->findElements(WebDriverBy::cssSelector('.area-svg a'))));
        $this->find('#layout-words')->sendKeys('climate'.WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_contains($this->address(), 'words=climate'), 'the words are in the address');
        $this->until('tbody tr');
        $this->click($this->link('field.climate_reading'));
        $this->until('.advice');
        self::assertStringContainsString('chunks over 12 nodes', $this->heading());
        $this->open('/tune/layout/fernhill/field.harvest_pick?column=kilos&node=2');
        self::assertStringContainsString('Chunks over the range of kilos', $this->find('main')->getText());
        $pages = [
            '/tune/layout?cluster=fernhill',
            '/tune/layout/fernhill/field.harvest_pick',
            '/',
            '/tune/layout?cluster=own-store',
            '/tune/layout/rules',
            '/tune/layout/rules/skew',
            '/tune/layout/maintenance',
            '/tune/layout/files',
            '/ledger/findings',
            '/ledger/changes',
            '/ledger/proofs',
            '/ledger/outbox',
            '/ledger/findings/1',
            '/ledger/changes/1',
            '/ledger/proofs/1',
        ];
        $this->assertFitForEverybody($pages);
        $this->signIn(self::VIEWER);
        $this->open('/tune/layout/fernhill/field.harvest_pick');
        self::assertStringContainsString('needs the role engineer', $this->find('main')->getText());
        self::assertSame([], $this->driver()->findElements(WebDriverBy::xpath('//main//button[contains(., "Propose")]')));
    }

    public function test_a_bad_table_made_in_the_workbench_is_found_by_the_next_audit_and_one_message_goes_out(): void
    {
        $this->signIn('marta@brackenfold.example');
        $this->open('/ledger/outbox');
        $this->find('#watch-target')->sendKeys('platform@brackenfold.example');
        $this->click($this->button('Add'));
        $this->open(
            '/tune/workbench?cluster=fernhill&schema=field&sql='.
                rawurlencode(
                    'CREATE TABLE field.careless (grade text, bay_id bigint) PLACED BY (grade) AS SELECT grade, bay_id FROM '
                        .'field.harvest_pick UNION ALL SELECT grade, bay_id FROM field.harvest_pick',
                ),
        );
        $this->find('button[data-mode=run][data-which=one]')->click();
        $this->until('.outcome .told');
        self::artisan('storage:audit', 'fernhill');
        self::artisan('storage:audit', 'fernhill');
        self::artisan('ledger:post');
        $this->open('/ledger/outbox');
        self::assertCount(
            1,
            array_filter(
                $this->texts('td.problem'),
                static fn (string $subject): bool => str_contains($subject, 'field.careless is placed'),
            ),
        );
        $this->click($this->link('field.careless is placed'));
        self::assertStringContainsString('/ledger/findings/', $this->find('pre')->getText());
        $this->click($this->link('Open the finding'));
        self::assertStringContainsString('field.careless', $this->heading());
    }
}
