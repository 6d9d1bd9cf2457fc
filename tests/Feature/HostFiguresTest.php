<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Baseline\Application\BusiestHour;
use App\Baseline\Charts\RulersFigure;
use App\Capacity\Application\CapacityStore;
use App\Capacity\Application\StoragePlace;
use App\Capacity\Charts\AvailabilityFigure;
use App\Capacity\Charts\StorageFigure;
use App\Loading\Charts\StreamsFigure;
use App\Loading\Models\LoadTrial;
use App\Platform\Figures\Figure;
use App\Profiles\Charts\IcicleFigure;
use App\Profiles\Models\KeptProfile;
use App\Settings\Charts\SettingsFigure;
use DateTimeZone;
use DOMDocument;
use DOMElement;
use DOMXPath;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Capacity\Outage;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Loading\TransferBound;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Loading\TransferModel;
use Fulcrion\Core\Profiling\StackTree;
use Fulcrion\Core\Settings\SettingsProfile;
use Fulcrion\Core\Settings\SettingTable;
use Fulcrion\Core\Time\Window;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * The figures of hosts, storage, loading and profiles: what is drawn is as long, and where, as the numbers say.
 */
#[Group('today')]
final class HostFiguresTest extends TestCase
{
    private const DAY = 86_400;

    private const NOW = 1_795_564_800;

    /**
     * @return list<DOMElement>
     */
    private static function all(Figure $figure, string $class): array
    {
        $document = new DOMDocument();
        self::assertTrue($document->loadXML('<root xmlns:xlink="x">'.$figure->svg.'</root>',
            LIBXML_NOERROR | LIBXML_NOWARNING), 'the drawing is whole');
        $found = (new DOMXPath($document))->query("//*[contains(concat(' ', @class, ' '), ' {$class} ')]");
        self::assertNotFalse($found);

        return array_values(array_filter(iterator_to_array($found), static fn (mixed $one): bool => $one instanceof DOMElement));
    }

    private static function number(DOMElement $element, string $name): float
    {
        return (float) $element->getAttribute($name);
    }

    public function test_rulers_are_filled_by_their_shares_and_the_fullest_stands_first(): void
    {
        $figure = RulersFigure::draw([
            new ResourceUse('a', BusiestHour::DISK, 0.25, 0.5), new ResourceUse('b', BusiestHour::DISK, 0.1, 0.2),
            new ResourceUse('a', BusiestHour::PROCESSORS, 0.5, 0.75), new ResourceUse('b', BusiestHour::PROCESSORS, 0.6, 0.7),
        ]);
        $rulers = self::all($figure, 'ruler');
        $high = self::all($figure, 'ruler-high');
        $middle = self::all($figure, 'ruler-middle');
        self::assertSame([2, 2, 2], [count($rulers), count($high), count($middle)]);
        foreach ([[0.75, 0.5], [0.5, 0.25]] as $place => [$most, $half]) {
            $width = self::number($rulers[$place], 'width');
            self::assertEqualsWithDelta($most * $width, self::number($high[$place], 'width'), 0.6);
            self::assertEqualsWithDelta($half * $width, self::number($middle[$place], 'width'), 0.6);
        }
        self::assertCount(4, self::all($figure, 'ruler-other'), 'a mark for each host');
        self::assertSame(['Processors', 'a', '50%', '75%'], $figure->rows[0]);
        self::assertCount(4, $figure->rows);
        self::assertStringStartsWith('Processors: 75% on a.', $figure->summary);
    }

    public function test_a_host_beyond_its_baseline_is_drawn_beyond_its_ruler(): void
    {
        $figure = RulersFigure::draw([new ResourceUse('a', BusiestHour::NETWORK, 0.9, 1.25)]);
        self::assertEqualsWithDelta(1.25, self::number(self::all($figure, 'ruler-high')[0], 'width')
            / self::number(self::all($figure, 'ruler')[0], 'width'), 0.01);
        self::assertSame('125%', $figure->rows[0][3]);
    }

    public function test_settings_have_a_mark_for_each_host_and_only_rows_that_differ(): void
    {
        $profile = SettingsProfile::read(['name' => 'x', 'settings' => ['vm.swappiness' => ['atMost' => 10, 'reason' => 'so'],
            'vm.dirty_ratio' => ['is' => 10, 'reason' => 'so']]]);
        self::assertInstanceOf(SettingsProfile::class, $profile);
        $hosts = [];
        for ($host = 1; $host <= 5; $host++) {
            $hosts["h{$host}"] = ['vm.swappiness' => $host === 3 ? '<60>' : '1', 'vm.dirty_ratio' => $host === 5 ? null : '10',
                'fs.file-max' => $host === 2 ? '7' : '9', 'net.core.somaxconn' => '4096'];
        }
        $figure = SettingsFigure::draw(SettingTable::of($profile, $hosts));
        self::assertCount(1, self::all($figure, 'act'));
        self::assertCount(1, self::all($figure, 'odd'));
        self::assertCount(8, self::all($figure, 'calm'), 'four others in each of two rows');
        self::assertStringContainsString('&lt;60&gt;', $figure->svg, 'what a host sends is only text');
        self::assertStringContainsString('2 other settings are as desired, or the same on all 5 hosts.', $figure->svg);
        self::assertStringContainsString('vm.swappiness: h3 <60>.', $figure->summary);
        self::assertContains(['fs.file-max', 'h2', '7', 'anything', 'unlike the others'], $figure->rows);
        self::assertContains(['vm.swappiness', 'h3', '<60>', 'at most 10', 'not as desired'], $figure->rows);
    }

    public function test_of_many_hosts_those_that_differ_have_a_place_and_the_others_one(): void
    {
        $profile = SettingsProfile::read(['name' => 'x', 'settings' => ['vm.swappiness' => ['atMost' => 10, 'reason' => 'so']]]);
        self::assertInstanceOf(SettingsProfile::class, $profile);
        $hosts = [];
        for ($host = 1; $host <= 300; $host++) {
            $hosts["h{$host}"] = ['vm.swappiness' => $host % 100 === 0 ? '60' : '1'];
        }
        $figure = SettingsFigure::draw(SettingTable::of($profile, $hosts));
        self::assertCount(3, self::all($figure, 'act'));
        self::assertStringContainsString('297 others', $figure->svg);
        self::assertCount(300, $figure->rows, 'the table has them all');
        $calm = SettingsFigure::draw(SettingTable::of($profile, ['h1' => ['vm.swappiness' => '1']]));
        self::assertStringContainsString('1 setting is as desired, or not held against anything.', $calm->svg);
    }

    private static function place(float $limit): StoragePlace
    {
        $used = 100.0;
        $readings = [];
        for ($at = self::NOW - 28 * self::DAY; $at <= self::NOW; $at += 3_600) {
            $used += ($at - self::NOW) % (7 * self::DAY) === -3 * self::DAY ? 10.0 : 0.0;
            $readings[] = new StorageReading($at, $used * 2 ** 30, $limit * 2 ** 30);
        }

        return StoragePlace::of(CapacityStore::WHOLE, $readings) ?? self::fail('nothing');
    }

    public function test_storage_meets_its_limit_where_the_forecast_says(): void
    {
        $cluster = $this->cluster();
        $place = self::place(165.0);
        $causes = array_fill_keys(array_map(static fn ($step): int => $step->at, $place->steps),
            new StoredPart(PartKind::Versions, 's.t', 1.0));
        $figure = StorageFigure::draw($place, $cluster, $causes, [], new DateTimeZone('UTC'));
        $days = $place->forecast?->days;
        self::assertNotNull($days);
        $met = self::all($figure, 'met');
        self::assertCount(1, $met);
        $now = self::all($figure, 'mark');
        $steps = self::all($figure, 'step');
        self::assertCount(4, $steps);
        // One scale of time: the day it is full is as far ahead as the days say.
        $first = $place->steps[0]->at;
        $perDay = (self::number($now[0], 'x1') - self::number($steps[0], 'cx')) / ((self::NOW - $first) / self::DAY);
        self::assertEqualsWithDelta($days, (self::number($met[0], 'cx') - self::number($now[0], 'x1')) / $perDay, 0.05);
        self::assertStringContainsString('old versions of s.t', $figure->svg);
        self::assertStringContainsString('+10.0 GiB', str_replace('10 GiB', '10.0 GiB', $figure->svg));
        self::assertStringContainsString('The storage of Fernhill: 140 GiB of 165 GiB are used', $figure->summary);
        self::assertCount(29, $figure->rows, 'a row a day');
        self::assertSame(['140 GiB', '165 GiB'], array_slice($figure->rows[28], 1));
    }

    public function test_storage_with_room_for_years_is_drawn_without_a_day(): void
    {
        $figure = StorageFigure::draw(self::place(9_000.0), $this->cluster(), [], [], new DateTimeZone('UTC'));
        self::assertSame([], self::all($figure, 'met'));
        self::assertStringContainsString('its cause is not known', $figure->svg);
        self::assertSame([], self::all($figure, 'spare'));
    }

    public function test_a_day_without_an_answer_is_as_tall_as_its_minutes(): void
    {
        $window = new Window(self::NOW - 7 * self::DAY, self::NOW);
        self::assertNull(AvailabilityFigure::draw([], $window, new DateTimeZone('UTC')));
        $figure = AvailabilityFigure::draw([
            new Outage(self::NOW - 3 * self::DAY, self::NOW - 3 * self::DAY + 900, 600.0, 9, 1),
            new Outage(self::NOW - 3 * self::DAY + 5_000, self::NOW - 3 * self::DAY + 6_000, 300.0, 9, 1),
            new Outage(self::NOW - 5 * self::DAY, self::NOW - 5 * self::DAY + 900, 450.0, 9, 1),
        ], $window, new DateTimeZone('UTC'));
        self::assertNotNull($figure);
        $bars = self::all($figure, 'outage');
        self::assertCount(2, $bars);
        $heights = array_map(static fn (DOMElement $one): float => self::number($one, 'height'), $bars);
        sort($heights);
        self::assertEqualsWithDelta(2.0, $heights[1] / $heights[0], 0.02, 'two of one day stand in one bar');
        self::assertStringContainsString('99.777%', $figure->summary, '1,350 of 604,800 seconds');
        self::assertCount(2, $figure->rows);
    }

    public function test_streams_are_drawn_on_the_curve_of_the_model(): void
    {
        $model = new TransferModel(new TransferMeasure(900, 900_000_000, 900.0, 1.0, 0.5, 2_000_000.0),
            [TransferBound::Link->value => 10_000_000.0]);
        $figure = StreamsFigure::ofModel($model);
        $dot = self::all($figure, 'dot');
        self::assertCount(1, $dot);
        self::assertStringContainsString('the link, ', $figure->svg);
        self::assertStringContainsString($model->saturating().' streams', $figure->svg);
        self::assertSame('measured', $figure->rows[count($figure->rows) - 1][3]);
        self::assertSame(['1', '2', '4', '8', '16'], array_slice(array_column($figure->rows, 0), 0, 5));
        $trial = new LoadTrial();
        $trial->forceFill(['result' => [
            ['streams' => 1, 'files' => 10, 'bytes' => 1_000_000, 'seconds' => 2.0, 'fileSeconds' => 0.1, 'streamRate' => 1_000_000.0],
            ['streams' => 4, 'files' => 10, 'bytes' => 1_000_000, 'seconds' => 0.5, 'fileSeconds' => 0.1, 'streamRate' => 1_000_000.0],
        ]]);
        $tried = StreamsFigure::ofTrial($trial);
        $dots = self::all($tried, 'dot');
        self::assertCount(2, $dots);
        self::assertGreaterThan(self::number($dots[0], 'cx'), self::number($dots[1], 'cx'));
        self::assertLessThan(self::number($dots[0], 'cy'), self::number($dots[1], 'cy'), 'faster stands higher');
    }

    private static function icicle(StackTree $tree, ?StackTree $before = null, string $search = ''): Figure
    {
        $profile = new KeptProfile();
        $profile->forceFill(['id' => 1, 'unit' => 'samples']);

        return IcicleFigure::draw($profile, $tree, $tree->root, [], $before, $search);
    }

    public function test_functions_are_as_wide_as_their_share_below_the_one_that_called(): void
    {
        $tree = new StackTree();
        $tree->add(['main', 'scan'], 60);
        $tree->add(['main', 'join'], 20);
        $tree->add(['main'], 10);
        $tree->add(['idle'], 10);
        $figure = self::icicle($tree, null, 'scan');
        $boxes = [];
        foreach (self::all($figure, 'icicle') as $box) {
            $boxes[strtok(trim($box->textContent.$box->getAttribute('aria-label').$box->parentNode?->textContent), ':')] = $box;
        }
        self::assertCount(5, self::all($figure, 'icicle'));
        $widths = array_map(static fn (DOMElement $one): float => self::number($one, 'width') + 1, self::all($figure, 'icicle'));
        self::assertEqualsWithDelta([1.0, 0.9, 0.6, 0.2, 0.1], array_map(static fn (float $width): float => $width / $widths[0], $widths),
            0.01,
            'all, main, and below it what it called, the widest first; then idle');
        $tops = array_map(static fn (DOMElement $one): float => self::number($one, 'y'), self::all($figure, 'icicle'));
        self::assertSame([0.0, 22.0, 44.0, 44.0, 22.0], array_map(static fn (float $y): float => $y - $tops[0], $tops));
        self::assertCount(1, self::all($figure, 'found'));
        self::assertCount(4, self::all($figure, 'other'));
        self::assertNotSame([], $boxes);
        self::assertSame(['main', '1', '90%', '10%'], $figure->rows[1]);
        self::assertStringContainsString('at=main%3Bscan', $figure->svg, 'a press goes one step deeper');
    }

    public function test_what_was_before_is_hollow_only_where_it_differs(): void
    {
        $now = new StackTree();
        $now->add(['a'], 50);
        $now->add(['b'], 50);
        $before = new StackTree();
        $before->add(['a'], 25);
        $before->add(['b'], 75);
        $frames = self::all(self::icicle($now, $before), 'icicle-before');
        self::assertCount(2, $frames);
        $whole = self::number(self::all(self::icicle($now), 'icicle')[0], 'width');
        self::assertEqualsWithDelta(0.25, self::number($frames[0], 'width') / $whole, 0.01);
        self::assertSame([], self::all(self::icicle($now, $now), 'icicle-before'));
    }

    public function test_a_large_profile_is_drawn_in_bounds(): void
    {
        $tree = new StackTree();
        for ($i = 0; $i < 20_000; $i++) {
            $tree->add(['main', 'f'.($i % 5_000), 'g'.($i % 7)], 1);
        }
        $figure = self::icicle($tree);
        self::assertLessThanOrEqual(3_000, count(self::all($figure, 'icicle')));
        self::assertLessThan(2_000_000, strlen($figure->svg));
        self::assertLessThanOrEqual(200, count($figure->rows));
    }
}
