<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Figures\BridgeFigure;
use App\Platform\Figures\LineFigure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\StackFigure;
use App\Platform\Support\Export;
use App\Platform\Support\Spreadsheet;
use DateTimeZone;
use DOMDocument;
use DOMXPath;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Tools\Demo\DemoHistory;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use SimpleXMLElement;
use Tests\TestCase;
use ZipArchive;

final class FigureTest extends TestCase
{
    public function test_axes_hold_the_greatest_value_and_are_round(): void
    {
        foreach ([0.0, 0.003, 0.7, 1.0, 3.2, 99.0, 12_345.0] as $max) {
            $ticks = Scale::ticks($max);
            self::assertSame(0.0, $ticks[0]);
            self::assertGreaterThanOrEqual($max, end($ticks));
            self::assertLessThanOrEqual(7, count($ticks));
        }
        self::assertSame([0.0, 600e6, 1_200e6, 1_800e6], Scale::durations(1_500e6), 'minutes by tens');
        self::assertSame([0.0, 1.0], Scale::counts(1.0));
        self::assertSame([0.0, 1_048_576.0, 2_097_152.0, 3_145_728.0], Scale::inUnits(3_000_000.0), 'whole mebibytes');
        self::assertSame([0.0, 200.0, 400.0], Scale::inUnits(400.0, about: 2), 'bytes below a kibibyte');
        self::assertSame([0.0, 5.0, 10.0], Scale::inUnits(10.0, 1.0, 2), 'what has no units by steps');
        $weeks = Scale::times(1_793_491_200, 1_793_491_200 + 28 * 86_400, new DateTimeZone('UTC'));
        foreach ($weeks as $label) {
            self::assertStringStartsWith('Mon', $label);
        }
    }

    public function test_a_stack_is_valid_holds_its_sum_and_says_it_as_a_table(): void
    {
        $times = [1_795_154_400, 1_795_154_700, 1_795_155_000];
        $figure = StackFigure::draw(
            'f',
            'A <title>',
            'Summary & more',
            'how',
            $times,
            300,
            ['one "quoted"' => [1.0, 0.0, 2.0], 'two' => [3.0, 0.0, 0.5]],
            [4, 0, 7],
            new DateTimeZone('UTC'),
            static fn (int $from, int $to): string => "/x?from={$from}&to={$to}",
        );
        $xml = new DOMDocument();
        self::assertTrue($xml->loadXML($figure->svg));
        $path = new DOMXPath($xml);
        self::assertSame('A <title>', $path->evaluate('string(/*/*[local-name()="title"])'));
        self::assertSame(3, $path->query('//*[local-name()="a"]')->length);
        // The upper edge of the stack in the first interval lies at 4 of a scale that ends at 4 or more.
        self::assertSame(['4', '0', '2.5'], array_column($figure->rows, 1));
        self::assertSame(['interval', 'load', 'one "quoted"', 'two', 'executions'], $figure->head);
        self::assertStringContainsString(
            '06:00–06:05: 4 in flight, from 4 executions; two 3; one "quoted" 1',
            $path->evaluate('string((//*[local-name()="rect"]/*[local-name()="title"])[1])'),
        );
    }

    public function test_a_line_breaks_where_nothing_ran_and_lone_points_show(): void
    {
        $figure = LineFigure::draw(
            'f',
            't',
            's',
            'h',
            range(0, 1_500, 300),
            300,
            [1.0, 2.0, null, 4.0, null, null],
            array_fill(0, 6, null),
            'before',
            new DateTimeZone('UTC'),
            static fn (float $value): string => Quantity::digits($value),
            false,
        );
        $xml = new DOMDocument();
        self::assertTrue($xml->loadXML($figure->svg));
        $path = new DOMXPath($xml);
        self::assertSame(2, substr_count($path->evaluate('string(//*[@class="line s1"]/@d)'), 'M'), 'two pieces');
        self::assertSame(1, $path->query('//*[local-name()="circle"]')->length);
        self::assertSame('–', $figure->rows[2][1]);
    }

    public function test_a_bridge_ends_where_it_must(): void
    {
        $figure = BridgeFigure::draw('f', 2.0, 3.5, [['name' => 'a', 'change' => 2.0], ['name' => 'b', 'change' => -0.5]]);
        $xml = new DOMDocument();
        self::assertTrue($xml->loadXML($figure->svg));
        self::assertSame([['before', '2'], ['a', '+2'], ['b', Quantity::MINUS.'0.5'], ['after', '3.5']], $figure->rows);
        $path = new DOMXPath($xml);
        // The second bar ends where the mark of the result stands.
        self::assertSame(
            $path->evaluate('string((//*[@class="mark"])[2]/@x1)'),
            $path->evaluate('string((//*[local-name()="rect"])[2]/@x)'),
        );
    }

    public function test_cells_that_spreadsheets_would_run_are_made_harmless(): void
    {
        ob_start();
        Export::table('csv', 't', [['a' => '=1+1', 'b' => -3, 'c' => "two\nlines", 'd' => null, 'e' => true]])->sendContent();
        self::assertSame("a,b,c,d,e\n'=1+1,-3,\"two\nlines\",,true\n", ob_get_clean());
    }

    public function test_a_spreadsheet_holds_numbers_as_numbers_and_no_text_as_a_formula(): void
    {
        $rows = [
            ['a' => '=1+1', 'b' => -3, 'c' => '<two> & "more"', 'd' => null, 'e' => true, 'f' => 0.25, 'g' => '0012'],
            ['a' => str_repeat('x', 40_000), 'b' => 2 ** 53 + 1, 'c' => "\xFF", 'd' => '', 'e' => false, 'f' => INF, 'g' => '-5'],
        ];
        ob_start();
        Export::table('xlsx', 't', $rows)->sendContent();
        $path = (string) tempnam(sys_get_temp_dir(), 'x');
        file_put_contents($path, (string) ob_get_clean());
        // Read by what every spreadsheet file is: an archive of XML.
        $archive = new ZipArchive();
        self::assertTrue($archive->open($path));
        $sheet = simplexml_load_string((string) $archive->getFromName('xl/worksheets/sheet1.xml'));
        $archive->close();
        unlink($path);
        self::assertInstanceOf(SimpleXMLElement::class, $sheet);
        $cells = [];
        foreach ($sheet->sheetData->row as $row) {
            foreach ($row->c as $cell) {
                self::assertCount(0, $cell->f, 'no formula');
                $type = (string) $cell['t'];
                $cells[(string) $cell['r']] = [$type, $type === 'inlineStr' ? (string) $cell->is->t : (string) $cell->v];
            }
        }
        self::assertSame(['a', 'b', 'c', 'd', 'e', 'f', 'g'], array_column(array_slice($cells, 0, 7), 1));
        self::assertSame(
            [['inlineStr', '=1+1'], ['', '-3'], ['inlineStr', '<two> & "more"'], ['b', '1'], ['', '0.25'], ['inlineStr', '0012']],
            [$cells['A2'], $cells['B2'], $cells['C2'], $cells['E2'], $cells['F2'], $cells['G2']],
        );
        self::assertArrayNotHasKey('D2', $cells);
        self::assertSame(Spreadsheet::LONGEST, mb_strlen($cells['A3'][1]));
        self::assertStringEndsWith('x…', $cells['A3'][1]);
        // More digits than a double holds stay a text.
        self::assertSame([['inlineStr', '9007199254740993'], ['b', '0'], ['inlineStr', 'INF']], [$cells['B3'], $cells['E3'], $cells['F3']]);
        self::assertSame(['inlineStr', '-5'], $cells['G3']);
    }

    public function test_nothing_to_take_away_is_a_file_without_rows(): void
    {
        foreach (['csv' => '', 'json' => "[\n]\n"] as $format => $expected) {
            ob_start();
            Export::table($format, 't', [])->sendContent();
            self::assertSame($expected, ob_get_clean());
        }
        ob_start();
        Export::table('xlsx', 't', [])->sendContent();
        self::assertStringStartsWith('PK', (string) ob_get_clean());
    }

    #[TestWith(['-5', '-5'])]
    #[TestWith(['+1e3', '+1e3'])]
    #[TestWith(['-5+1', "'-5+1"])]
    #[TestWith(['@x', "'@x"])]
    #[TestWith(["\tx", "'\tx"])]
    #[TestWith(['x=1', 'x=1'])]
    public function test_a_number_is_no_formula(string $text, string $cell): void
    {
        self::assertSame($cell, Export::cell($text));
    }

    #[Group('today')]
    public function test_the_demo_is_the_same_from_the_same_seed_and_moment(): void
    {
        $digest = static function (int $seed): string {
            $context = hash_init('xxh128');
            $last = '';
            $inOrder = true;
            foreach ((new DemoHistory(1_795_154_400, $seed, 0.02))->records() as $record) {
                $inOrder = $inOrder && $record['started_at'] >= $last;
                $last = $record['started_at'];
                hash_update($context, (string) json_encode($record));
            }
            self::assertTrue($inOrder);
            self::assertLessThan('2026-11-20T06:00:00', $last, 'nothing lies in the future');

            return hash_final($context);
        };
        self::assertSame($digest(46), $digest(46));
        self::assertNotSame($digest(46), $digest(47));
    }

    public function test_labels_of_days_are_not_cut_off_at_the_end(): void
    {
        // Two weeks whose last label stands at the very end.
        $from = (int) strtotime('2026-11-11 UTC');
        $figure = LineFigure::draw(
            'mean',
            'Mean latency',
            'It is level',
            'as counted',
            array_map(static fn (int $i): int => $from + $i * 43_200, range(0, 27)),
            $from + 14 * 86_400,
            array_fill(0, 28, 5.0),
            [],
            '',
            new DateTimeZone('UTC'),
            Quantity::count(...),
            false,
        );
        $label = '~<text class="tick" x="([\d.]+)"[^>]* text-anchor="middle">([^<]+)</text>~';
        self::assertGreaterThan(5, preg_match_all($label, $figure->svg, $found));
        foreach ($found[1] as $i => $x) {
            self::assertLessThanOrEqual(1180.0, (float) $x + 3.2 * mb_strlen($found[2][$i]), $found[2][$i]);
        }
    }
}
