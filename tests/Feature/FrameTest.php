<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\StackFigure;
use DateTimeZone;
use DOMDocument;
use DOMElement;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/**
 * The frame that figures with two axes share: where values come to lie, and what a reader is told.
 */
final class FrameTest extends TestCase
{
    #[TestWith([0.0, 0.0])]
    #[TestWith([50.0, 0.5])]
    #[TestWith([200.0, 1.0])]
    #[TestWith([-200.0, -1.5])]
    public function test_even_steps_go_on_beyond_the_ends(float $value, float $part): void
    {
        $axis = Axis::even($value < 0 ? 100.0 : 0.0, $value === 50.0 ? 100.0 : ($value < 0 ? 300.0 : 200.0));
        self::assertEqualsWithDelta($part, $axis->part($value), 1e-12);
    }

    #[TestWith([1.0, 0.0])]
    #[TestWith([10.0, 0.25])]
    #[TestWith([100.0, 0.5])]
    #[TestWith([10_000.0, 1.0])]
    #[TestWith([0.0, 0.0])]
    #[TestWith([1e9, 1.0])]
    public function test_over_magnitudes_each_tenfold_is_as_wide_and_nothing_lies_beyond(float $value, float $part): void
    {
        self::assertEqualsWithDelta($part, Axis::magnitudes(1.0, 10_000.0)->part($value), 1e-12);
    }

    public function test_axes_without_extent_have_one(): void
    {
        self::assertSame([0.0, 1.0], [Axis::even(5.0, 5.0)->part(5.0), Axis::even(5.0, 5.0)->part(6.0)]);
        self::assertSame(0.0, Axis::magnitudes(0.0, 0.0)->part(0.0));
        self::assertSame(1.0, Axis::upTo([])->part(1.0));
        self::assertSame(0.5, Axis::upTo([0.0, 4.0, 8.0])->part(4.0));
    }

    public function test_an_axis_holds_what_lies_between_its_ends(): void
    {
        $axis = Axis::even(2.0, 4.0);
        self::assertSame([false, true, false], array_map($axis->holds(...), [2.0, 3.0, 4.0]));
    }

    public function test_marks_lie_where_their_values_say(): void
    {
        $frame = new Frame('f', 'T', 'S', Axis::even(0.0, 10.0), Axis::even(0.0, 100.0), height: 200, left: 80, top: 20, below: 30,
            beside: 100);
        self::assertSame([1080.0, 170.0], [$frame->right, $frame->bottom]);
        self::assertSame([80.0, 580.0, 1080.0], array_map($frame->x(...), [0.0, 5.0, 10.0]));
        self::assertSame([170.0, 95.0, 20.0], array_map($frame->y(...), [0.0, 50.0, 100.0]));
        $frame->grid([0.0, 50.0], static fn (float $value): string => "{$value} <b>")
            ->along(['5' => 'five'], 9, marks: true)
            ->names('up & away', 'across')
            ->line('line s1', [[0.0, 0.0], [10.0, 100.0]])
            ->limitAcross(50.0, 'limit')
            ->limitUp(5.0, 'wall')
            ->dot('dot', 580, 95, 3, 'a "dot"')
            ->box('bar', 80, 95, 10.126, 75, 'a bar', '/x?a=1&b=2');
        $svg = self::read($frame->drawing());
        self::assertSame('0 0 1180 200', $svg->getAttribute('viewBox'));
        self::assertSame(['img', 'f-title f-desc'], [$svg->getAttribute('role'), $svg->getAttribute('aria-labelledby')]);
        self::assertSame(
            [
                'title f-title "T"',
                'desc f-desc "S"',
                'line 80 1080 170 170',
                'text 74 174 end "0"',
                'line 80 1080 95 95',
                'text 74 99 end "50 <b>"',
                'line 580 580 170 174',
                'text 580 191 middle "five"',
                'text 80 12 "up & away"',
                'text 1080 194 end "across"',
                'path M80 170L1080 20',
                'line 80 1080 95 95',
                'text 1080 90 end "limit"',
                'line 580 580 20 170',
                'text 585 30 "wall"',
                'circle 580 95 3',
                'title "a "dot""',
                'a /x?a=1&b=2',
                'rect 80 95 10.13 75',
                'title "a bar"',
            ],
            self::told($svg),
        );
    }

    public function test_labels_at_the_ends_are_moved_in_where_asked(): void
    {
        $frame = new Frame('f', 'T', 'S', Axis::even(0.0, 1.0), Axis::even(0.0, 1.0), height: 100, left: 80);
        $frame->along(['0' => 'a', '1' => 'Wed 25 Nov'], within: true);
        // Ten letters of seven take thirty-five on each side.
        self::assertSame(
            ['text 94 94 middle "a"', 'text 1145 94 middle "Wed 25 Nov"'],
            array_slice(self::told(self::read($frame->drawing())), 2),
        );
    }

    public function test_a_figure_whose_marks_lead_somewhere_is_a_group(): void
    {
        $frame = new Frame('f', 'T', 'S', Axis::even(0.0, 1.0), Axis::even(0.0, 1.0), height: 100, links: true);
        self::assertSame('group', self::read($frame->drawing())->getAttribute('role'));
        $figure = $frame->figure('how', ['a', 'b'], [['1', '2']]);
        self::assertSame(['S', 'how', ['a', 'b'], [['1', '2']]], [$figure->summary, $figure->how, $figure->head, $figure->rows]);
        self::assertSame($frame->drawing(), $figure->svg);
    }

    private static function read(string $svg): DOMElement
    {
        $document = new DOMDocument();
        self::assertTrue($document->loadXML($svg));
        self::assertNotNull($document->documentElement);

        return $document->documentElement;
    }

    /**
     * @return list<string> tag, places, text of each element
     */
    private static function told(DOMElement $svg): array
    {
        $told = [];
        foreach ($svg->getElementsByTagName('*') as $element) {
            $places = [];
            foreach (['id', 'href', 'd', 'x', 'x1', 'x2', 'y', 'y1', 'y2', 'cx', 'cy', 'r', 'width', 'height', 'text-anchor'] as $name) {
                if ($element->hasAttribute($name)) {
                    $places[] = $element->getAttribute($name);
                }
            }
            $text = in_array($element->tagName, ['text', 'title', 'desc'], true) ? " \"{$element->textContent}\"" : '';
            $told[] = trim("{$element->tagName} ".implode(' ', $places)).$text;
        }

        return $told;
    }

    public function test_a_chart_over_time_comes_with_what_it_is_drawn_from_and_all_labels_are_written(): void
    {
        $from = (int) gmmktime(8, 0, 0, 11, 20, 2026);
        $figure = StackFigure::draw(
            'f',
            'T',
            'S',
            'how',
            [$from, $from + 3600, $from + 7200],
            $from + 10_800,
            ['a' => [0.1, 0.0, 0.25], 'b' => [1.0, 1 / 3, 0.0]],
            [3, 1, 2],
            new DateTimeZone('Europe/Berlin'),
            static fn (int $at, int $to): string => "/at/{$at}-{$to}",
            [[$from, $from + 60]],
        );
        self::assertNotNull($figure->plot);
        $plot = json_decode((string) json_encode($figure->plot), true);
        self::assertSame([true, [$from, $from + 3600, $from + 7200], $from + 10_800], [$plot['stacked'], $plot['starts'], $plot['to']]);
        self::assertSame(['s1', 's2'], array_column($plot['series'], 'css'));
        self::assertEquals([[0.1, 0, 0.25], [1, 0.333333, 0]], array_column($plot['series'], 'values'));
        self::assertSame(['0', '0.5', '1', '1.5'], array_column($plot['up'], 1));
        // By the clock of its reader, from a wide page to a narrow one.
        self::assertSame(['09:00', '09:30', '10:00', '10:30', '11:00', '11:30', '12:00'], array_column($plot['across'][0], 1));
        self::assertSame(['09:00', '10:00', '11:00', '12:00'], array_column($plot['across'][1], 1));
        self::assertSame(['09:00', '10:00', '11:00', '12:00'], array_column($plot['across'][2], 1));
        self::assertSame([[[$from, $from + 60]], [], 'Europe/Berlin'], [$plot['gaps'], $plot['marks'], $plot['zone']]);
        // Its intervals are in the drawing, in order, each with its words and its link.
        self::assertSame(3, preg_match_all('~<a [^>]*href="/at/(\d+)-\d+"[^>]*><rect class="slice"[^>]*><title>~', $figure->svg, $found));
        self::assertEquals($plot['starts'], $found[1]);
    }

    public function test_fewer_labels_stand_below_a_narrow_chart(): void
    {
        $zone = new DateTimeZone('UTC');
        foreach ([3600, 10_800, 86_400, 14 * 86_400, 365 * 86_400] as $span) {
            foreach ([9, 5, 3] as $about) {
                $labels = Scale::times(1_763_600_000, 1_763_600_000 + $span, $zone, $about);
                self::assertLessThanOrEqual(max($about, (int) ceil($span / 2_592_000)) + 1, count($labels), "{$span} by {$about}");
            }
        }
        self::assertSame([[0.0, '0'], [2.0, '2 x']], Scale::labelled([0.0, 2.0], static fn (float $v): string => "{$v} x"));
    }
}
