<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Finding;
use App\Platform\Figures\Figure;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Role;
use App\Platform\Support\StyleNonce;
use DateTimeImmutable;
use DateTimeZone;
use DOMDocument;
use DOMElement;
use DOMXPath;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Blade;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/**
 * The pieces pages are made of.
 */
final class ComponentTest extends TestCase
{
    public function test_a_table_has_a_name_for_those_who_do_not_see_it_and_scrolls_by_itself(): void
    {
        $html = self::render('<x-table :name="$name"><tbody><tr><td>1</td></tr></tbody></x-table>', ['name' => 'Cost & "use"']);
        $region = self::node($html, '//div[@role="region"]');
        self::assertSame(['scroll', '0', 'Cost & "use"'], self::attributes($region, 'class', 'tabindex', 'aria-label'));
        $table = self::node($html, '//table');
        self::assertSame(['Cost & "use"', 'Cost & "use"'], self::attributes($table, 'data-export', 'data-sorts'));
    }

    public function test_a_table_may_be_taken_away_by_another_name_or_not_at_all(): void
    {
        $table = static function (string $attributes): DOMElement {
            $found = self::node(self::render("<x-table name=\"Steps\" {$attributes}><tbody></tbody></x-table>"), '//table');

            return $found;
        };
        self::assertSame(['All steps', 'Steps'], self::attributes($table('export="All steps"'), 'data-export', 'data-sorts'));
        self::assertFalse($table(':export="false"')->hasAttribute('data-export'));
        self::assertFalse($table(':sorts="false"')->hasAttribute('data-sorts'));
        self::assertSame(['narrow'], self::attributes($table('class="narrow"'), 'class'));
        $scroll = self::node(self::render('<x-table name="x" fit="result"><tbody></tbody></x-table>'), '//div');
        self::assertSame('scroll result', $scroll->getAttribute('class'));
    }

    public function test_filters_act_at_once_and_have_a_button_where_there_is_no_script(): void
    {
        $form = self::node(
            self::render('<x-filters :to="$to" class="wide"><x-search id="w" label="Words" :value="$words" /></x-filters>', [
                'to' => '/tune/plans',
                'words' => '"a" & b',
            ]),
            '//form',
        );
        self::assertSame(
            ['filters wide', 'get', '/tune/plans', '/tune/plans', '#content', '#content', 'true', 'search'],
            self::attributes($form, 'class', 'method', 'action', 'hx-get', 'hx-target', 'hx-select', 'hx-push-url', 'role'),
        );
        self::assertTrue($form->hasAttribute('data-filters'));
        $html = self::render(
            '<x-filters to="#chunks" part="bench-history"><x-search id="w" label="W" name="q" :key="false" /></x-filters>',
        );
        $part = self::node($html, '//form');
        self::assertSame(['#chunks', url()->current(), '#bench-history'], self::attributes($part, 'action', 'hx-get', 'hx-target'));
        self::assertFalse($part->hasAttribute('hx-push-url'), 'a part of a page has no address');
        self::assertSame('Filter', self::node($html, '//noscript/button')->textContent);
        $field = self::node($html, '//input');
        self::assertSame(['w', 'search', 'q', ''], self::attributes($field, 'id', 'type', 'name', 'value'));
        self::assertFalse($field->hasAttribute('data-key'));
        $keyed = self::node(self::render('<x-search id="w" label="W" :value="$v" placeholder="p" />', ['v' => '"a" & b']), '//input');
        self::assertSame(['/', '"a" & b', 'p', 'words'], self::attributes($keyed, 'data-key', 'value', 'placeholder', 'name'));
    }

    public function test_an_editor_is_a_field_that_can_be_sent_without_a_script(): void
    {
        $html = self::render('<x-editor id="q" :value="$value" :rows="7" described="help" />', ['value' => "SELECT '<b>' & \"x\""]);
        $field = self::node($html, '//textarea');
        self::assertSame("SELECT '<b>' & \"x\"", $field->textContent);
        self::assertSame(
            ['q', 'sql', '7', 'sql', 'help', '/tune/catalog/words'],
            self::attributes($field, 'id', 'name', 'rows', 'data-editor', 'aria-describedby', 'data-words-at'),
        );
        self::assertMatchesRegularExpression('~^[0-9a-f]{32}$~', $field->getAttribute('data-nonce'));
        self::assertFalse($field->hasAttribute('data-words'));
    }

    public function test_an_editor_that_knows_its_words_asks_nobody(): void
    {
        $html = self::render('<x-editor id="c" name="fields[when]" kind="condition" :words="$words" data-checked="condition" />', [
            'words' => ["labelled('personal')", '"'],
        ]);
        $field = self::node($html, '//textarea');
        self::assertSame(["labelled('personal')", '"'], json_decode($field->getAttribute('data-words'), true));
        self::assertFalse($field->hasAttribute('data-words-at'));
        self::assertSame(['fields[when]', 'condition', 'condition'], self::attributes($field, 'name', 'data-editor', 'data-checked'));
    }

    public function test_all_editors_of_a_page_share_its_nonce_and_no_two_pages_do(): void
    {
        $request = Request::create('/');
        self::assertNull(StyleNonce::asked($request));
        $nonce = StyleNonce::of($request);
        self::assertSame($nonce, StyleNonce::of($request));
        self::assertStringContainsString($nonce, (string) StyleNonce::asked($request));
        self::assertNotSame($nonce, StyleNonce::of(Request::create('/')));
    }

    #[TestWith(['calm', 'calm', 'calm'])]
    #[TestWith(['watch', 'watch', 'watch'])]
    #[TestWith(['act', 'act', 'act'])]
    #[TestWith(['no data', 'none', 'no data'])]
    public function test_a_state_is_told_by_word_shape_and_colour(string $is, string $class, string $word): void
    {
        $html = self::render('<x-state :is="$is" />', ['is' => $is]);
        $state = self::node($html, '//span');
        self::assertSame("state {$class}", $state->getAttribute('class'));
        self::assertSame($word, trim($state->textContent));
        self::assertSame('true', self::attributes(self::node($html, '//svg'), 'aria-hidden')[0]);
        self::assertSame('late', self::text(self::render('<x-state is="act">late</x-state>'), '//span'));
    }

    public function test_shapes_of_states_differ(): void
    {
        $shapes = array_map(
            static fn (string $is): string => (string) strstr(Blade::render("<x-state is=\"{$is}\" />"), '<svg'),
            ['calm', 'watch', 'act', 'no data'],
        );
        self::assertCount(4, array_unique($shapes));
    }

    public function test_a_figure_has_its_table_beside_it(): void
    {
        $rows = [['06:00', '1 200'], ['07:00', '<3']];
        $figure = new Figure('<svg><title>t</title></svg>', 's', 'how it is <computed>', ['when', 'load'], $rows);
        $html = self::render('<x-figure :figure="$figure" name="Load" />', ['figure' => $figure]);
        self::assertSame('how it is <computed>', self::text($html, '//figcaption'));
        self::assertSame('Load, figure', self::attributes(self::node($html, '//figure/div'), 'aria-label')[0]);
        $cells = array_map(static fn (int $i): string => self::text($html, "(//details//td)[{$i}]"), range(1, 4));
        self::assertSame(['06:00', '1 200', '07:00', '<3'], $cells);
        $table = self::node($html, '//details//table');
        self::assertSame(['Load', 'Load as a table'], self::attributes($table, 'data-export', 'data-sorts'));
        self::assertSame('polite', self::attributes(self::node($html, '//p[@class="reading-line"]'), 'aria-live')[0]);
    }

    #[TestWith([0.0, '0', '0'])]
    #[TestWith([0.256, '25', '102.4'])]
    #[TestWith([1.0, '100', '400'])]
    public function test_progress_says_how_far_it_is(float $of, string $now, string $width): void
    {
        $html = self::render('<x-progress :of="$of" label="Reading" />', ['of' => $of]);
        self::assertSame(
            ['progressbar', 'Reading', '0', '100', $now],
            self::attributes(self::node($html, '//svg'), 'role', 'aria-label', 'aria-valuemin', 'aria-valuemax', 'aria-valuenow'),
        );
        self::assertSame($width, self::attributes(self::node($html, '//rect[@class="bar"]'), 'width')[0]);
    }

    public function test_a_scale_is_told_only_where_there_is_one(): void
    {
        self::assertStringContainsString("modelled ×1\u{202F}000", Blade::render('<x-scale :factor="1000" />'));
        self::assertSame('', trim(Blade::render('<x-scale :factor="1" />')));
    }

    /**
     * @return iterable<string, array{MomentStyle, string, string, string}>
     */
    public static function moments(): iterable
    {
        yield 'a minute' => [MomentStyle::Minute, '2026-11-20 06:07:08', 'Europe/Paris', 'Fri 20 Nov 07:07'];
        yield 'a second' => [MomentStyle::Second, '2026-11-20 06:07:08', 'UTC', 'Fri 20 Nov 06:07:08'];
        yield 'a clock' => [MomentStyle::Clock, '2026-11-20 23:59:59', 'Asia/Kolkata', '05:29:59'];
        yield 'a day, which turns with the zone' => [MomentStyle::Day, '2026-11-20 23:30:00', 'Europe/Paris', '21 Nov 2026'];
        yield 'another year' => [MomentStyle::Minute, '2025-11-20 06:07:08', 'UTC', 'Thu 20 Nov 2025 06:07'];
        yield 'another year there' => [MomentStyle::Second, '2025-12-31 23:30:00', 'Europe/Paris', 'Thu 1 Jan 00:30:00'];
    }

    #[DataProvider('moments')]
    public function test_a_moment_is_told_in_the_zone_of_its_reader(MomentStyle $as, string $utc, string $zone, string $told): void
    {
        Carbon::setTestNow('2026-11-21 12:00:00');
        $at = new DateTimeImmutable("{$utc} UTC");
        self::assertSame($told, moment($at->getTimestamp() * 1_000_000 + 999_999, $as, new DateTimeZone($zone)));
        self::assertSame($told, moment($at, $as, new DateTimeZone($zone)));
        $person = $this->person(Role::Viewer);
        $person->update(['time_zone' => $zone]);
        $this->actingAs($person->refresh());
        self::assertSame($told, moment($at, $as));
    }

    public function test_a_moment_nobody_knows_is_a_dash(): void
    {
        self::assertSame(['–', '–'], [moment(null), moment(-1)]);
        self::assertSame('Thu 1 Jan 1970 00:00', moment(0));
    }

    public function test_a_row_of_a_finding_leads_to_what_it_is_about(): void
    {
        $print = str_repeat('ab', 16);
        $report = static fn (FindingSubject $subject, Weight $weight, array $evidence = []): Reported => new Reported(
            'odd-rule',
            $subject,
            Severity::Act,
            'It is <odd>',
            array_values($evidence),
            $weight,
            '',
        );
        app(Findings::class)->reconcile($this->cluster(), 'weather', [
            $report(FindingSubject::item('field.pick'), Weight::of(3.6e9, WeightUnit::QueryTime)),
            $report(FindingSubject::statement($print), Weight::of(7.2e9, WeightUnit::WorkerTime), [
                new Evidence('what', 'SELECT ? FROM pick', EvidenceKind::Statement),
            ]),
            $report(FindingSubject::account('crew hub'), Weight::none()),
        ]);
        $rows = [];
        foreach (Finding::query()->with('cluster')->orderBy('id')->get() as $finding) {
            $html = self::render('<x-finding-row :finding="$finding" />', ['finding' => $finding]);
            $rows[] = [
                self::attributes(self::node($html, '//a'), 'href')[0],
                self::text($html, '//p[contains(@class, "weight")]'),
                self::text($html, '//a'),
            ];
            $said = self::text($html, '//li');
            self::assertStringContainsString('odd rule', $said);
            self::assertStringContainsString('act', $said);
        }
        $first = Finding::query()->orderBy('id')->firstOrFail()->id;
        self::assertSame(
            [
                ["/ledger/findings/{$first}", '1 h', 'It is <odd>'],
                ["/tune/statements/{$print}?cluster=fernhill&window=last%2028%20days", '2 h of workers', 'It is <odd>'],
                ['/tune/statements?cluster=fernhill&user=crew%20hub&window=last%2028%20days&by=bytes', '', 'It is <odd>'],
            ],
            $rows,
        );
    }

    /**
     * @param  array<string, mixed>  $data
     */
    private static function render(string $template, array $data = []): DOMXPath
    {
        $document = new DOMDocument();
        $before = libxml_use_internal_errors(true);
        $document->loadHTML('<?xml encoding="UTF-8"><body>'.Blade::render($template, $data).'</body>');
        libxml_use_internal_errors($before);

        return new DOMXPath($document);
    }

    private static function node(DOMXPath $html, string $path): DOMElement
    {
        $found = $html->query($path);
        $node = $found === false ? null : $found->item(0);
        self::assertInstanceOf(DOMElement::class, $node, $path);

        return $node;
    }

    private static function text(DOMXPath $html, string $path): string
    {
        return trim(self::node($html, $path)->textContent);
    }

    /**
     * @return list<string>
     */
    private static function attributes(DOMElement $element, string ...$names): array
    {
        return array_map($element->getAttribute(...), array_values($names));
    }
}
