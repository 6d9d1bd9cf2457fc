<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Statements\Application\PlanDifference;
use App\Statements\Application\PlanMask;
use App\Statements\Application\PlanWords;
use App\Statements\Charts\PlanFigure;
use DOMDocument;
use DOMNode;
use DOMNodeList;
use DOMXPath;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\TestCase;

final class PlanViewTest extends TestCase
{
    public function test_width_is_rows_tone_is_time_and_the_gap_to_the_estimate_is_drawn(): void
    {
        $svg = new DOMDocument();
        self::assertTrue($svg->loadXML((new PlanFigure($this->plan(90_000.0, 100.0)))->svg()));
        $xpath = new DOMXPath($svg);
        $xpath->registerNamespace('s', 'http://www.w3.org/2000/svg');
        $classes = [];
        foreach (self::found($xpath, '//s:rect') as $gate) {
            $classes[] = $gate instanceof \DOMElement ? $gate->getAttribute('class') : '';
        }
        // Nine tenths of the time, none, one tenth.
        self::assertSame(['gate t6', 'gate t0', 'gate t2'], $classes);
        $heights = [];
        foreach (self::found($xpath, '//s:path[@class="flow"]') as $path) {
            preg_match(
                '~^M[\d.]+ ([\d.]+)C.*L[\d.]+ [\d.]+C.*? ([\d.]+)Z$~',
                $path instanceof \DOMElement ? $path->getAttribute('d') : '',
                $ends,
            );
            $heights[] = (float) ($ends[2] ?? 0) - (float) ($ends[1] ?? 0);
        }
        self::assertGreaterThan(3 * min($heights), max($heights), 'ninety thousand rows are far wider than twelve');
        self::assertSame(2, $xpath->query('//s:path[@class="expected off"]')?->length, 'both edges of the path that was expected');
        self::assertSame(3, $xpath->query('//s:a[@aria-label]')?->length);
        $right = (new PlanFigure($this->plan(90_000.0, 90_000.0)))->svg();
        self::assertStringNotContainsString('expected', (string) preg_replace('~<title>.*?</title>~', '', $right));
    }

    public function test_a_plan_in_words_names_the_hottest_step_and_what_was_expected(): void
    {
        $plan = $this->plan(90_000.0, 100.0);
        self::assertSame('90% of 10 ms (modelled) goes into "Read field.pick"', PlanWords::sentence($plan, []));
        self::assertSame(
            "1. Sort by kilos [12 rows, 12 expected, 1 ms]\n    2. Read field.pick [90 000 rows, 100 expected, 9 ms, 3 of 4 chunks]\n   "
                ."    where crew = 'Ada'\n    3. Read ref.bay [12 rows, 12 expected, 0 µs]",
            str_replace("\u{202F}", ' ', PlanWords::text($plan)),
        );
        self::assertStringContainsString('too few', PlanWords::error($plan->root->inputs[0]));
        self::assertSame('right', PlanWords::error($plan->root));
    }

    public function test_hidden_literals_are_in_no_part_of_a_plan(): void
    {
        self::assertStringContainsString('Ada', $this->plan(5, 5)->toJson());
        $masked = (new PlanMask())->mask($this->plan(5, 5));
        self::assertStringNotContainsString('Ada', $masked->toJson());
        self::assertStringContainsString('crew = ?', $masked->toJson());
        self::assertSame($this->plan(5, 5)->fingerprint(), $masked->fingerprint());
    }

    public function test_two_plans_are_laid_side_by_side_by_what_they_share(): void
    {
        $scan = static fn (string $table): PlanStep => new PlanStep(StepKind::Scan, $table, new TableFacts($table));
        $first = new Plan(
            new PlanStep(
                StepKind::Sort,
                inputs: [new PlanStep(StepKind::HashJoin, "a = 'x'", inputs: [$scan('t'), $scan('u')])],
            ),
            'practice',
            true,
            false,
        );
        $second = new Plan(
            new PlanStep(
                StepKind::Sort,
                inputs: [new PlanStep(StepKind::LoopJoin, "a = 'y'", inputs: [$scan('t'), $scan('u')])],
            ),
            'practice',
            true,
            false,
        );
        $shown = array_map(
            static fn (array $row): string => ($row[0]?->kind->value ?? '-').'/'.($row[1]?->kind->value ?? '-'),
            PlanDifference::of($first, $second),
        );
        sort($shown);
        self::assertSame(['-/loop-join', 'hash-join/-', 'scan/scan', 'scan/scan', 'sort/sort'], $shown);
        $values = new Plan(
            new PlanStep(
                StepKind::Sort,
                inputs: [new PlanStep(StepKind::HashJoin, "a = 'z'", inputs: [$scan('t'), $scan('u')])],
            ),
            'practice',
            true,
            false,
        );
        self::assertSame(
            [],
            array_filter(PlanDifference::of($first, $values), static fn (array $row): bool => $row[0] === null || $row[1] === null),
            'other values are no other step',
        );
    }

    private function plan(float $actual, float $expected): Plan
    {
        return new Plan(
            new PlanStep(
                StepKind::Sort,
                'by kilos',
                null,
                [],
                new StepRows(12.0, 12.0, $actual, 1),
                new StepCost(1000),
                inputs: [
                    new PlanStep(
                        StepKind::Scan,
                        'field.pick',
                        new TableFacts('field.pick'),
                        ["crew = 'Ada'"],
                        new StepRows($expected, $actual, $actual, 1),
                        new StepCost(9000),
                        new StepReads(3, 4),
                    ),
                    new PlanStep(
                        StepKind::Scan,
                        'ref.bay',
                        new TableFacts('ref.bay'),
                        [],
                        new StepRows(12.0, 12.0, 12.0, 1),
                        new StepCost(0),
                    ),
                ],
            ),
            'practice',
            true,
            true,
            10_000,
            "SELECT 1 FROM field.pick WHERE crew = 'Ada'",
        );
    }

    /**
     * @return DOMNodeList<\DOMNameSpaceNode|DOMNode>
     */
    private static function found(DOMXPath $xpath, string $path): DOMNodeList
    {
        $nodes = $xpath->query($path);

        return $nodes instanceof DOMNodeList ? $nodes : self::fail("{$path} is no path.");
    }
}
