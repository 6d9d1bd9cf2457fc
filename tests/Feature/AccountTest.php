<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\Prices;
use App\Cost\Application\TeamAccounts;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\Notification;
use App\Ledger\Notifications\Dispatcher;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageLimits;
use Brick\Math\BigDecimal;
use DOMDocument;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Mail\Events\MessageSent;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use SimpleXMLElement;
use Symfony\Component\Mime\Email;
use Tests\TestCase;

/**
 * What one team is told: its page, its statement of account, and how that gets to people.
 */
#[Group('today')]
final class AccountTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-11 00:00:00');
        $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        // In October an hour a day of ada's; in November two of another statement, and half an hour of bren's.
        $records = [];
        foreach ([['10', 31, 'ada', 'SELECT a', 60], ['11', 10, 'ada', 'SELECT a', 60], ['11', 10, 'ada', 'SELECT c', 60],
            ['11', 10, 'bren', 'SELECT b', 30], ['10', 31, 'bren', 'SELECT b', 30]] as $i => [$month, $last, $user, $sql, $minutes]) {
            foreach (range(1, $last) as $day) {
                $records[] = [
                    'started_at' => (int) strtotime(sprintf('2026-%s-%02d %02d:00 UTC', $month, $day, 8 + 2 * $i)),
                    'duration_us' => $minutes * 60_000_000, 'sql' => $sql, 'user' => $user,
                    'bytes_scanned' => $sql === 'SELECT c' ? 1_099_511_627_776 : 0,
                ];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    /** Ten nodes at a euro, all of which goes to what runs, and two euro a TiB. */
    private function priced(): void
    {
        $this->actingAs($this->person(Role::Owner));
        foreach ([['node_hour', '1', '10'], ['scanned_tib', '2', '1']] as [$kind, $amount, $quantity]) {
            $this->post('/meter/prices/fernhill', [
                'kind' => $kind, 'amount' => $amount, 'from' => '2026-01-01', 'quantity' => $quantity,
            ])->assertSessionHas('done');
        }
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
    }

    private function schedule(string $recipient = 'head@brackenfold.example', int $day = 2, string $team = 'pickers'): int
    {
        $this->actingAs($this->person(Role::Owner))
            ->post('/meter/accounts', ['team' => $team, 'recipient' => $recipient, 'day' => (string) $day])
            ->assertSessionHas('done', 'Look at it first: nothing goes out before you say so.');
        $id = (int) DB::table('account_schedules')->where('recipient', $recipient)->value('id');

        return $id;
    }

    public function test_a_teams_account_worked_by_hand(): void
    {
        $this->priced();
        $days = Days::parse('2026-11-01 to 2026-11-10', Clock::seconds());
        $account = app(TeamAccounts::class)->of('pickers', $days, Clock::seconds());
        // November: 2,400 euro for 25 hours in flight, 20 of them theirs, and ten TiB. October's ten days: two thirds of 2,400.
        self::assertSame(['1920.00', '20.00'], [(string) $account->costs[0]->shared, (string) $account->costs[0]->own]);
        self::assertSame('1600.00', (string) $account->totalBefore());
        self::assertSame(
            "pickers cost 1\u{202F}940.00\u{A0}EUR, 1 to 10 November 2026: 21% more than in the same days of the month before",
            $account->sentence(),
        );
        self::assertSame([10, 20], array_map(static fn ($used): int => $used->executions, $account->use['executions']));
        self::assertSame([10 * 3_600_000_000, 20 * 3_600_000_000], [
            $account->use['in_flight_us'][0]->amount, $account->use['in_flight_us'][1]->amount,
        ]);
        self::assertSame('Time in flight changed by +10 h, most of it by statements that are new', $account->reason());
        self::assertSame(36_000_000_000, $account->bridge->change());
        // Its statements cost what it costs.
        self::assertSame(['980.00', '960.00'], array_map(strval(...), array_values($account->statements)));
        self::assertTrue(BigDecimal::sum(...array_values($account->statements))->isEqualTo($account->total()));
        self::assertSame(2, $account->few());
        self::assertCount(20, $account->daily);
        self::assertSame(7_200_000_000, $account->daily[$days->from]);
    }

    public function test_of_any_measure_and_any_days_statements_add_up_to_the_team(): void
    {
        $this->priced();
        foreach (UsageMeasure::cases() as $measure) {
            foreach (['2026-11-03', '2026-10-30 to 2026-11-02', 'last month', 'this month'] as $text) {
                $account = app(TeamAccounts::class)->of('lab', Days::parse($text, Clock::seconds()), Clock::seconds(), $measure);
                [$before, $after] = $account->use[$measure->value];
                self::assertSame($after->amount - $before->amount, $account->bridge->change(), "{$measure->value} {$text}");
                self::assertSame($account->bridge->change(), array_sum($account->bridge->parts()));
                self::assertTrue(
                    BigDecimal::sum(BigDecimal::zero(), ...array_values($account->statements))->isEqualTo($account->total()),
                    "{$measure->value} {$text}",
                );
            }
        }
    }

    public function test_the_page_of_a_team_and_its_files(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $query = 'team=pickers&days=2026-11-01+to+2026-11-10';
        $this->get("/meter/team?{$query}")->assertOk()
            ->assertSee('pickers used 20 h of time in flight, 1 to 10 November 2026: no cluster it used has a price')
            ->assertSee('Without a price');
        $this->priced();
        $this->actingAs($this->person(Role::Viewer));
        $page = $this->get("/meter/team?{$query}")->assertOk()
            ->assertSee("pickers cost 1\u{202F}940.00\u{A0}EUR")
            ->assertSee('2 of 2 statements make four fifths of its cost')
            ->assertSee('SELECT c')
            ->assertDontSee('SELECT b')
            ->assertDontSee('Send it every month');
        self::assertSame(10 + 10, substr_count((string) $page->getContent(), '-bar"'));
        $file = $this->get("/meter/team/account.html?{$query}")->assertOk()->assertHeader('Content-Disposition',
            'attachment; filename="account-pickers-2026-11.html"');
        $html = (string) $file->getContent();
        self::assertStringContainsString("pickers cost 1\u{202F}940.00\u{A0}EUR", html_entity_decode($html));
        // It needs nothing else: no script, no address, nothing that would be fetched.
        self::assertDoesNotMatchRegularExpression('~<script|<link|<a |src=|@import|https?://(?!www\.w3\.org)~', $html);
        $document = new DOMDocument();
        libxml_use_internal_errors(true);
        self::assertTrue($document->loadHTML($html));
        libxml_clear_errors();
        // Whatever its figure is drawn with has a colour in the style that the file carries (tests run without built styles).
        $style = (string) file_get_contents(resource_path('scss/report.scss'));
        preg_match_all('~<(?:rect|line|text)\b[^>]* class="([a-z-]+)"~', $html, $marks);
        self::assertContains('before-bar', $marks[1]);
        self::assertContains('after-bar', $marks[1]);
        foreach (array_unique($marks[1]) as $mark) {
            self::assertMatchesRegularExpression("~\\.{$mark} \\{[^}]*(?:fill|stroke):~", $style, $mark);
        }
        $pdf = (string) $this->get("/meter/team/account.pdf?{$query}")->assertOk()->assertHeader('Content-Type', 'application/pdf')
            ->getContent();
        self::assertStringStartsWith('%PDF-', $pdf);
        self::assertStringEndsWith('%%EOF', rtrim($pdf));
        self::assertGreaterThan(0, preg_match_all('~/Type /Page\b~', $pdf));
        // Wrong turns.
        $this->get('/meter/team?team=nobody')->assertNotFound();
        $this->get('/meter/team?days=soon')->assertOk()->assertSee('is no span of days')->assertSee('This month is shown instead');
        $this->get('/meter/team?team=lab&days=2026-06')->assertOk()->assertSee('lab used nothing, June 2026')->assertSee('Choose');
        $this->get('/meter/team/account.exe')->assertNotFound();
    }

    public function test_what_was_not_known_then_is_not_compared_with(): void
    {
        $this->priced();
        // Of September nothing is known, so October is held against nothing.
        $page = $this->get('/meter/team?team=lab&days=2026-10')->assertOk()
            ->assertSee('so nothing can be said of what')
            ->assertSee('not known')
            ->assertDontSee('nothing before')
            ->assertDontSee('What changed, and why');
        self::assertStringContainsString(
            "lab cost 2\u{202F}480.00\u{A0}EUR, October 2026<",
            html_entity_decode((string) $page->getContent()),
        );
    }

    public function test_a_viewer_sees_only_the_teams_they_are_told_of(): void
    {
        $viewer = $this->person(Role::Viewer);
        UsageLimits::set($viewer, ['lab']);
        $this->actingAs($viewer)->get('/meter/team')->assertOk()->assertSee('lab used')->assertDontSee('pickers');
        foreach (['/meter/team', '/meter/team/account.html', '/meter/team/account.pdf'] as $address) {
            $this->get("{$address}?team=pickers")->assertForbidden();
            // Whether there is such a team is not told either.
            $this->get("{$address}?team=nobody")->assertForbidden();
        }
        $this->get('/meter/team/account.html?team=lab')->assertOk()->assertSee('SELECT b')->assertDontSee('SELECT a');
        UsageLimits::set($viewer, []);
        $this->get('/meter/team')->assertOk()->assertSee('No team has used anything yet');
        $this->get('/meter/team/account.pdf')->assertNotFound();
    }

    public function test_nothing_goes_out_before_somebody_saw_what_would(): void
    {
        $this->priced();
        $id = $this->schedule();
        $this->get('/meter/accounts')->assertOk()->assertSee('1 statement of account is planned each month; 1 waits for somebody to look');
        Carbon::setTestNow('2026-12-02 06:10:00');
        Artisan::call('account:send');
        self::assertStringContainsString('0 statements', Artisan::output());
        $this->post("/meter/accounts/{$id}/send")->assertStatus(422);
        self::assertSame(0, Notification::query()->count());
        Carbon::setTestNow('2026-11-11 00:00:00');
        $this->get("/meter/accounts/{$id}/preview")->assertOk()
            ->assertSee('This is what head@brackenfold.example would get, of October 2026')
            ->assertSee("pickers cost 4\u{202F}960.00\u{A0}EUR, October 2026");
        $this->post("/meter/accounts/{$id}/confirm")->assertSessionHas('done');
        $this->get('/meter/accounts')->assertSee('goes out')->assertDontSee('waits for');
        // It was written down after October was due.
        Artisan::call('account:send');
        self::assertSame(0, Notification::query()->count());
        // November is, on its day and not before, and once.
        foreach (['2026-12-01 23:00:00' => 0, '2026-12-02 06:10:00' => 1, '2026-12-03 06:10:00' => 1, '2026-12-31 06:10:00' => 1,
            '2027-01-01 06:10:00' => 1, '2027-01-05 06:10:00' => 2] as $at => $count) {
            Carbon::setTestNow($at);
            Artisan::call('account:send');
            self::assertSame($count, Notification::query()->count(), $at);
        }
        self::assertSame(['2026-11', '2026-12'], DB::table('accounts')->orderBy('id')->pluck('month')->all());
        self::assertSame(
            ['planned', 'let', 'sent', 'sent'],
            LedgerEntry::query()->orderBy('number')->where('act', 'like', '%statement%of account%')->pluck('act')
                ->map(static fn (string $act): string => explode(' ', $act)[0])->all(),
        );
        $this->post("/meter/accounts/{$id}/remove")->assertSessionHas('done');
        Carbon::setTestNow('2027-02-05 06:10:00');
        Artisan::call('account:send');
        self::assertSame(2, Notification::query()->count());
        $this->get('/meter/accounts')->assertSee('Nobody gets a statement of account yet')->assertSee('2026-12');
    }

    public function test_what_was_sent_stays_as_it_was(): void
    {
        $this->priced();
        $id = $this->schedule();
        $this->post("/meter/accounts/{$id}/confirm");
        $this->post("/meter/accounts/{$id}/send")->assertSessionHas('done', 'No mail server is set up here, so it was not sent: it can be '
            .'read below and in the outbox.');
        $account = DB::table('accounts')->sole();
        self::assertSame(hash('sha256', $account->html), $account->digest);
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '9', 'from' => '2026-01-02', 'quantity' => '10']);
        $this->get("/meter/accounts/{$account->id}/file.html")->assertOk()->assertSee("4\u{202F}960.00\u{A0}EUR");
        self::assertStringStartsWith('%PDF-', (string) $this->get("/meter/accounts/{$account->id}/file.pdf")->getContent());
        $this->get('/meter/accounts/99/file.pdf')->assertNotFound();
        // Sent again it says what is known by now, and the first one stays.
        $this->post("/meter/accounts/{$id}/send");
        self::assertSame(2, DB::table('accounts')->count());
        [$first, $second] = DB::table('accounts')->orderBy('id')->pluck('html')
            ->map(static fn (mixed $html): string => html_entity_decode((string) $html))->all();
        self::assertStringContainsString("4\u{202F}960.00", $first);
        self::assertStringNotContainsString("4\u{202F}960.00", $second);
    }

    public function test_it_goes_out_by_mail_with_both_files(): void
    {
        $this->priced();
        config(['mail.default' => 'sendmailing', 'mail.mailers.sendmailing' => ['transport' => 'array']]);
        /** @var list<Email> $mails */
        $mails = [];
        Event::listen(MessageSent::class, static function (MessageSent $sent) use (&$mails): void {
            $mails[] = $sent->message;
        });
        $id = $this->schedule('näme+account@brackenfold.example');
        $this->post("/meter/accounts/{$id}/confirm");
        $this->post("/meter/accounts/{$id}/send")
            ->assertSessionHas('done', 'The statement of October 2026 was sent to näme+account@brackenfold.example.');
        self::assertCount(1, $mails);
        $mail = $mails[0];
        self::assertSame('Statement of account of pickers, October 2026', $mail->getSubject());
        self::assertStringContainsString("pickers cost 4\u{202F}960.00\u{A0}EUR", (string) $mail->getTextBody());
        self::assertStringContainsString('/meter/team?team=pickers', (string) $mail->getTextBody());
        $files = [];
        foreach ($mail->getAttachments() as $file) {
            $files[$file->getFilename()] = [$file->getMediaType().'/'.$file->getMediaSubtype(), $file->getBody()];
        }
        self::assertSame(['account-pickers-2026-10.pdf', 'account-pickers-2026-10.html'], array_keys($files));
        self::assertSame('application/pdf', $files['account-pickers-2026-10.pdf'][0]);
        self::assertSame(DB::table('accounts')->value('pdf'), $files['account-pickers-2026-10.pdf'][1]);
        self::assertSame(DB::table('accounts')->value('html'), $files['account-pickers-2026-10.html'][1]);
    }

    public function test_a_mail_server_that_is_gone_is_tried_again_and_loses_nothing(): void
    {
        $this->priced();
        // Nobody listens there.
        config(['mail.default' => 'smtp', 'mail.mailers.smtp' => ['transport' => 'smtp', 'host' => '127.0.0.1', 'port' => 1]]);
        $id = $this->schedule();
        $this->post("/meter/accounts/{$id}/confirm");
        $this->post("/meter/accounts/{$id}/send")
            ->assertSessionHas('done', 'The mail server could not be reached. It stays in the outbox and is tried again.');
        $letter = Notification::query()->sole();
        self::assertSame(['waiting', 1], [$letter->state, $letter->tries]);
        $this->get("/ledger/outbox/{$letter->id}")->assertOk()->assertSee('it is tried again')->assertSee('account-pickers-2026-10.pdf');
        $dispatcher = app(Dispatcher::class);
        // Not before its time; then a minute, five, thirty, two hours and six after the one before.
        $dispatcher->send();
        self::assertSame(1, $letter->refresh()->tries);
        foreach ([60, 300, 1_800, 7_200, 21_600] as $i => $pause) {
            Carbon::setTestNow(Carbon::now()->addSeconds($pause - 1));
            $dispatcher->send();
            self::assertSame($i + 1, $letter->refresh()->tries, "{$pause} seconds are not over");
            Carbon::setTestNow(Carbon::now()->addSecond());
            $dispatcher->send();
            self::assertSame($i + 2, $letter->refresh()->tries, "{$pause} seconds are over");
        }
        self::assertSame('failed', $letter->state);
        $this->get('/meter/accounts')->assertSee('failed')->assertSee('refused');
        // It is back: what failed goes out when somebody says so.
        config(['mail.default' => 'back', 'mail.mailers.back' => ['transport' => 'array']]);
        $this->post('/ledger/outbox/send')->assertSessionHas('done', '1 message went out.');
        self::assertSame('sent', $letter->refresh()->state);
    }

    #[TestWith([Role::Viewer])]
    #[TestWith([Role::Engineer])]
    #[TestWith([Role::Steward])]
    public function test_the_outbox_does_not_tell_everybody_what_a_team_costs(Role $role): void
    {
        $this->priced();
        $id = $this->schedule();
        $this->post("/meter/accounts/{$id}/confirm");
        $this->post("/meter/accounts/{$id}/send");
        $letter = Notification::query()->sole();
        $file = $letter->files()[0];
        $this->get('/ledger/outbox')->assertSee('Statement of account of pickers');
        $this->get("/ledger/outbox/{$letter->id}/files/{$file->id}")->assertOk()->assertHeader('Content-Type', 'application/pdf');
        $this->actingAs($this->person($role));
        $this->get('/ledger/outbox')->assertOk()->assertDontSee('pickers');
        $this->get("/ledger/outbox/{$letter->id}")->assertForbidden();
        $this->get("/ledger/outbox/{$letter->id}/files/{$file->id}")->assertForbidden();
    }

    public function test_bad_input_names_its_field_and_a_second_one_for_the_same_is_refused(): void
    {
        $id = $this->schedule();
        $this->post('/meter/accounts', ['team' => 'pickers', 'recipient' => 'head@brackenfold.example', 'day' => '3'])
            ->assertSessionHasErrors(['recipient' => 'This address gets the statement of this team already.']);
        $this->post('/meter/accounts', ['team' => 'nobody', 'recipient' => 'x', 'day' => '31'])
            ->assertSessionHasErrors(['team', 'recipient', 'day']);
        $this->post('/meter/accounts', ['team' => 'lab', 'recipient' => 'head@brackenfold.example', 'day' => '3'])
            ->assertSessionHas('done');
        $gone = '/meter/accounts/'.($id + 50);
        $this->get("{$gone}/preview")->assertNotFound();
        foreach (['confirm', 'send', 'remove'] as $act) {
            $this->post("{$gone}/{$act}")->assertNotFound();
        }
    }

    public function test_names_of_teams_cannot_break_a_file_or_its_name(): void
    {
        $team = '<b>"Nights" & ../../days</b>';
        DB::table('usage_teams')->where('name', 'pickers')->update(['name' => $team]);
        $query = 'days=2026-11-01+to+2026-11-10&team='.rawurlencode($team);
        $this->actingAs($this->person(Role::Viewer))->get("/meter/team?{$query}")->assertOk()->assertDontSee('<b>"Nights"', false);
        $this->get("/meter/team/account.html?{$query}")
            ->assertHeader('Content-Disposition', 'attachment; filename="account-b-nights-days-b-2026-11.html"')
            ->assertDontSee('<b>"Nights"', false);
        self::assertStringStartsWith('%PDF-', (string) $this->get("/meter/team/account.pdf?{$query}")->assertOk()->getContent());
    }

    public function test_the_figure_of_days_is_as_high_as_the_use_of_each_and_says_the_same_as_its_table(): void
    {
        $days = Days::parse('2026-11-01 to 2026-11-10', Clock::seconds());
        $account = app(TeamAccounts::class)->of('pickers', $days, Clock::seconds());
        $figure = $account->figure();
        self::assertNotNull($figure);
        $svg = simplexml_load_string($figure->svg);
        self::assertNotFalse($svg);
        $heights = ['before-bar' => [], 'after-bar' => []];
        foreach ((array) $svg->xpath('//*[local-name()="rect"]') as $bar) {
            self::assertInstanceOf(SimpleXMLElement::class, $bar);
            $heights[(string) $bar['class']][] = (float) $bar['height'];
            self::assertGreaterThan(0.0, (float) $bar['width']);
        }
        // An hour a day in October, two in November: hollow half as high as filled.
        self::assertSame([10, 10], [count($heights['before-bar']), count($heights['after-bar'])]);
        foreach ($heights['after-bar'] as $day => $height) {
            self::assertEqualsWithDelta($height / 2, $heights['before-bar'][$day], 0.2);
        }
        self::assertCount(10, $figure->rows);
        self::assertSame(['Sun 1 Nov', '2 h', 'Thu 1 Oct', '1 h'], $figure->rows[0]);
        self::assertSame(['day', 'time in flight', 'against', 'time in flight then'], $figure->head);
        self::assertSame([], array_diff(['2 h', '1 h'], array_merge(...$figure->rows)));
        // A shorter month before has fewer hollow ones, and nothing stands for what is not there.
        $march = app(TeamAccounts::class)->of('lab', Days::parse('2026-10', Clock::seconds()), Clock::seconds())->figure();
        self::assertNotNull($march);
        self::assertCount(31, $march->rows);
        self::assertSame(['Sat 31 Oct', '30 min', '', ''], $march->rows[30]);
        self::assertSame(0, substr_count($march->svg, 'before-bar'));
    }

    public function test_what_a_schedule_of_each_day_of_the_month_sends(): void
    {
        $this->priced();
        foreach ([1, 15, 28] as $day) {
            $id = $this->schedule("day-{$day}@brackenfold.example", $day);
            $this->post("/meter/accounts/{$id}/confirm");
        }
        $sent = [];
        for ($at = Carbon::parse('2026-11-30 06:10:00'); $at->lessThan('2027-03-02'); $at->addDay()) {
            Carbon::setTestNow($at->toDateTimeString());
            $before = DB::table('accounts')->count();
            Artisan::call('account:send');
            if (DB::table('accounts')->count() > $before) {
                $sent[$at->format('Y-m-d')] = DB::table('accounts')->skip($before)->limit(9)->orderBy('id')->pluck('month')->all();
            }
        }
        // Planned on 11 November: what was due later in that month is made up for.
        self::assertSame([
            '2026-11-30' => ['2026-10', '2026-10'],
            '2026-12-01' => ['2026-11'], '2026-12-15' => ['2026-11'], '2026-12-28' => ['2026-11'],
            '2027-01-01' => ['2026-12'], '2027-01-15' => ['2026-12'], '2027-01-28' => ['2026-12'],
            '2027-02-01' => ['2027-01'], '2027-02-15' => ['2027-01'], '2027-02-28' => ['2027-01'], '2027-03-01' => ['2027-02'],
        ], $sent);
        // Each recipient one a month, none twice.
        $keys = DB::table('accounts')->get(['recipient', 'month'])
            ->map(static fn ($one): string => "{$one->recipient} {$one->month}")->all();
        self::assertSame(array_unique($keys), $keys);
        foreach (DB::table('accounts')->get() as $account) {
            self::assertStringContainsString('pickers', html_entity_decode((string) $account->html));
        }
    }

    public function test_a_day_the_server_slept_through_is_made_up_for(): void
    {
        $this->priced();
        $id = $this->schedule(day: 3);
        $this->post("/meter/accounts/{$id}/confirm");
        Carbon::setTestNow('2026-12-27 10:00:00');
        Artisan::call('account:send');
        self::assertSame(['2026-11'], DB::table('accounts')->pluck('month')->all());
        // Two months later only the last month goes out: the one before is over.
        Carbon::setTestNow('2027-03-27 10:00:00');
        Artisan::call('account:send');
        self::assertSame(['2026-11', '2027-02'], DB::table('accounts')->orderBy('id')->pluck('month')->all());
    }

    public function test_what_the_findings_of_a_teams_statements_would_save_stands_in_its_account(): void
    {
        $this->priced();
        $fingerprint = (string) DB::table('statements')->where('text', 'SELECT c')->value('fingerprint');
        DB::table('findings')->insert([
            'id' => 1, 'cluster_id' => DB::table('clusters')->value('id'), 'source' => 'storage', 'rule' => 'skew', 'object' => 's.t',
            'digest' => md5('1'), 'severity' => 'act', 'problem' => 's.t leans & <leans>', 'evidence' => '', 'state' => 'open',
            'first_us' => 1, 'last_us' => 1, 'changed_us' => 1,
        ]);
        // In flight ten hours in ten days: a half of it is three and a half hours a week.
        DB::table('finding_statements')->insert(['finding_id' => 1, 'fingerprint' => $fingerprint, 'weight_us' => 12_600_000_000]);
        $query = 'team=pickers&days=2026-11-01+to+2026-11-10';
        // 980 in ten days, half of it, in a month of 30.436875 days.
        $this->get("/meter/team?{$query}")->assertOk()->assertSee("about 1\u{202F}491.41\u{A0}EUR")->assertSee('s.t leans & <leans>')
            ->assertSee('/ledger/findings/1');
        $this->get("/meter/team/account.html?{$query}")->assertSee("about 1\u{202F}491.41\u{A0}EUR")->assertDontSee('/ledger/findings/1')
            ->assertDontSee('<leans>', false);
        $this->get('/meter/team?team=lab&days=2026-11-01+to+2026-11-10')->assertDontSee('leans');
    }

    public function test_accounts_of_all_teams_together_are_what_the_clusters_cost_but_for_what_is_idle(): void
    {
        $this->priced();
        $this->cluster('wren');
        $records = [];
        foreach (range(1, 10) as $day) {
            foreach (['ada', 'bren', 'cleo'] as $i => $user) {
                $records[] = [
                    'started_at' => (int) strtotime(sprintf('2026-11-%02d %02d:00 UTC', $day, 3 + 4 * $i)), 'user' => $user,
                    'duration_us' => (7 * $day + 13 * $i) * 60_000_000, 'sql' => "SELECT w FROM t{$i}", 'bytes_scanned' => 10 ** 11 * $day,
                ];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'wren']);
        Artisan::call('usage:close');
        $this->post('/meter/prices/wren', ['kind' => 'node_hour', 'amount' => '0.37', 'from' => '2026-01-01', 'quantity' => '3']);
        $this->post('/meter/prices/wren', ['kind' => 'scanned_tib', 'amount' => '1.11', 'from' => '2026-01-01']);
        foreach (['2026-11-03', '2026-11-01 to 2026-11-10'] as $text) {
            $days = Days::parse($text, Clock::seconds());
            $sum = $idle = BigDecimal::zero();
            foreach (TeamAccounts::teams() as $team) {
                $account = app(TeamAccounts::class)->of($team, $days, Clock::seconds());
                $sum = $sum->plus($account->total());
                // Its statements cost what it costs, and each of its clusters is one of those that have prices.
                $parts = BigDecimal::sum(BigDecimal::zero(), ...array_values($account->statements));
                self::assertTrue($parts->isEqualTo($account->total()), "{$team}, {$text}");
                $names = array_map(static fn ($one): string => $one->cluster, $account->costs);
                self::assertSame([], array_diff($names, ['Fernhill', 'Wren']), $team);
            }
            $all = BigDecimal::zero();
            foreach (Cluster::query()->get() as $cluster) {
                $cost = ClusterCost::of($cluster, $days, app(Prices::class), Clock::seconds());
                self::assertNotNull($cost);
                $all = $all->plus($cost->allocation->total);
                $idle = $idle->plus($cost->allocation->full()[Allocation::IDLE] ?? 0);
            }
            self::assertSame((string) $all->minus($idle), (string) $sum, $text);
            self::assertTrue($idle->isPositive(), 'wren has a line of its own for it');
        }
    }

    public function test_clusters_of_another_currency_are_named_in_an_account_and_not_added(): void
    {
        $this->priced();
        $this->cluster('wren');
        Artisan::call('telemetry:import', ['file' => $this->file([[
            'started_at' => (int) strtotime('2026-11-05 03:00 UTC'), 'duration_us' => 60_000_000, 'sql' => 'SELECT w', 'user' => 'ada',
        ]]), '--cluster' => 'wren']);
        Artisan::call('usage:close');
        $query = 'team=pickers&days=2026-11-01+to+2026-11-10';
        $this->get("/meter/team?{$query}")->assertSee('and not added: Wren')->assertSee("pickers cost 1\u{202F}940.00\u{A0}EUR");
        $this->post('/meter/prices/wren', ['kind' => 'node_hour', 'amount' => '5', 'from' => '2026-01-01']);
        $this->post('/meter/prices/wren/rule', ['currency' => 'CHF', 'follows' => 'in_flight_us', 'idle' => 'own_line']);
        foreach (["/meter/team?{$query}", "/meter/team/account.html?{$query}"] as $address) {
            $this->get($address)->assertSee('and not added: Wren')->assertSee("pickers cost 1\u{202F}940.00\u{A0}EUR")
                ->assertDontSee('CHF');
        }
        // Its use is use all the same.
        $account = app(TeamAccounts::class)->of('pickers', Days::parse('2026-11-05', Clock::seconds()), Clock::seconds());
        self::assertSame(3, $account->use['executions'][1]->executions);
    }

    public function test_why_a_team_costs_more_in_parts_that_add_up(): void
    {
        $this->priced();
        $days = Days::parse('2026-11-01 to 2026-11-10', Clock::seconds());
        $account = app(TeamAccounts::class)->of('pickers', $days, Clock::seconds());
        // An hour a day cost 160; now two cost 192. The new statement's ten hours at 160 are 1,600; a unit is 40% cheaper, of 20 hours.
        self::assertSame(['1600.00', '0.00', '0.00', '0.00', '-1280.00', '20.00', '0.00'], array_map(
            static fn (array $part): string => (string) $part[1],
            $account->why() ?? [],
        ));
        $query = 'team=pickers&days=2026-11-01+to+2026-11-10';
        $this->get("/meter/team?{$query}")->assertOk()->assertSee('Why its cost changed')->assertSee("+1\u{202F}600.00\u{A0}EUR")
            ->assertSee("\u{2212}1\u{202F}280.00\u{A0}EUR")->assertSee("+340.00\u{A0}EUR");
        // Twice the price of a node from November on is all price.
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '2', 'from' => '2026-11-01', 'quantity' => '10']);
        foreach (['lab', 'pickers'] as $team) {
            foreach (['2026-11-01 to 2026-11-10', '2026-11-04', '2026-10-29 to 2026-11-02'] as $text) {
                $account = app(TeamAccounts::class)->of($team, Days::parse($text, Clock::seconds()), Clock::seconds());
                $parts = $account->why();
                $before = $account->totalBefore();
                if ($parts === null || $before === null) {
                    continue;
                }
                $sum = BigDecimal::sum(...array_map(static fn (array $part): BigDecimal => $part[1], $parts));
                self::assertTrue($sum->isEqualTo($account->total()->minus($before)), "{$team} {$text}");
            }
        }
        $lab = app(TeamAccounts::class)->of('lab', $days, Clock::seconds());
        // As much use as before; a third of 2,400 then, a fifth of 4,800 now.
        self::assertSame(['0.00', '0.00', '0.00', '0.00', '160.00', '0.00', '0.00'], array_map(
            static fn (array $part): string => (string) $part[1],
            $lab->why() ?? [],
        ));
        // Of what is not known then nothing is explained.
        self::assertNull(app(TeamAccounts::class)->of('lab', Days::parse('2026-10', Clock::seconds()), Clock::seconds())->why());
        $this->get('/meter/team?team=lab&days=2026-10')->assertDontSee('Why its cost changed');
    }
}
