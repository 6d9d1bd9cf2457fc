<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Alerts\Application\CalendarEvent;
use App\Alerts\Models\Silence;
use App\Ledger\Notifications\MessageSignature;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\Role;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Silences as calendars have them, deploys that are noted, and messages that are signed.
 */
#[Group('today')]
final class AlertSilencesTest extends TestCase
{
    private const NOW = '2026-10-24T00:00:00Z';

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(self::NOW);
        $this->actingAs($this->person());
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private static function calendar(string ...$events): string
    {
        $text = '';
        foreach ($events as $i => $event) {
            $text .= "BEGIN:VEVENT\r\nUID:u{$i}@brackenfold.example\r\nDTSTAMP:20261001T000000Z\r\n{$event}\r\nEND:VEVENT\r\n";
        }

        return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Brackenfold//Work//EN\r\n{$text}END:VCALENDAR\r\n";
    }

    private static function at(string $time): int
    {
        return (int) strtotime($time);
    }

    public function test_a_window_of_every_night_keeps_its_hours_over_a_clock_change(): void
    {
        [$events] = CalendarEvent::all(self::calendar("DTSTART;TZID=Europe/Berlin:20261020T013000\r\nDTEND;TZID=Europe/Berlin:"
            ."20261020T033000\r\nRRULE:FREQ=DAILY\r\nSUMMARY:loaders"), self::at(self::NOW));
        $event = $events[0];
        self::assertSame(['loaders', 'every day', true], [$event->reason(), $event->repeats(), $event->isRepeated()]);
        // On the night in which the clocks go back it is three hours long.
        self::assertSame([self::at('2026-10-24T23:30Z'), self::at('2026-10-25T02:30Z')], $event->next(self::at('2026-10-24T12:00Z')));
        self::assertSame([self::at('2026-10-26T00:30Z'), self::at('2026-10-26T02:30Z')], $event->next(self::at('2026-10-25T02:30Z')));
        self::assertTrue($event->covers(self::at('2026-10-25T02:29Z')));
        self::assertFalse($event->covers(self::at('2026-10-25T02:30Z')));
        self::assertFalse($event->covers(self::at('2026-10-25T23:45Z')));
        self::assertTrue($event->covers(self::at('2026-10-26T00:30Z')));
        // A reader of its own understands what is written out.
        self::assertStringContainsString('DTSTART;TZID=Europe/Berlin:20261020T013000', $event->text());
        self::assertEquals($event->next(self::at('2026-10-24T12:00Z')),
            CalendarEvent::read($event->text())->next(self::at('2026-10-24T12:00Z')));
    }

    public function test_events_that_cannot_be_kept_are_left_out_in_words(): void
    {
        $lasts = "\r\nDURATION:PT1H";
        [$events, $complaints] = CalendarEvent::all(self::calendar(
            "DTSTART;VALUE=DATE:20261024\r\nSUMMARY:a day",
            'DTSTART:20261024T010000Z',
            "DTSTART:20200131T010000Z{$lasts}\r\nRRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30",
            "DTSTART:20261024T010000Z{$lasts}\r\nRRULE:FREQ=SECONDLY",
            "DTSTART:20261031T010000Z{$lasts}\r\nRRULE:FREQ=DAILY;INTERVAL=7;BYDAY=MO",
            "DTSTART:20261001T010000Z{$lasts}",
            "DTSTART:20100101T010000Z{$lasts}\r\nRRULE:FREQ=DAILY",
            "DTSTART:20261001T010000Z{$lasts}\r\nRRULE:FREQ=DAILY;COUNT=3",
            "DTSTART:20261024T010000Z\r\nDTEND:20261224T010000Z",
            'SUMMARY:when?',
            "DTSTART:20261024T010000Z{$lasts}\r\nRECURRENCE-ID:20261024T010000Z",
            "DTSTART:22000131T010000Z{$lasts}",
            "DTSTART:20180131T010000Z{$lasts}\r\nRRULE:FREQ=MONTHLY;BYDAY=-1SU",
            "DTSTART:20261025T010000Z{$lasts}\r\nRRULE:FREQ=WEEKLY;BYDAY=SU,WE;UNTIL=20261231T000000Z",
        ), self::at(self::NOW));
        self::assertCount(3, $events);
        self::assertSame([self::at('2026-10-24T00:00Z'), self::at('2026-10-25T00:00Z')], $events[0]->next(self::at('2026-10-24T11:00Z')));
        self::assertSame([self::at('2026-10-25T01:00Z'), self::at('2026-10-25T02:00Z')], $events[1]->next(self::at(self::NOW)));
        self::assertSame([self::at('2026-10-28T01:00Z'), self::at('2026-10-28T02:00Z')], $events[2]->next(self::at('2026-10-26T00:00Z')));
        foreach (['Event 2 is left out: it ends when it begins.', 'which is not taken', 'which is not taken', 'which is not taken',
            'it is over.', 'more than ten years ago', 'it does not come any more.', 'longer than a month', 'does not say when it begins',
            'changes one time of another event', 'in more than ten years'] as $place => $said) {
            self::assertStringContainsString($said, $complaints[$place]);
        }
        foreach (['', 'no calendar', "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:x\r\nEND:VCARD\r\n",
            self::calendar(...array_fill(0, 501, 'DTSTART:20261024T010000Z'))] as $odd) {
            try {
                CalendarEvent::all($odd, self::at(self::NOW));
                self::fail($odd);
            } catch (InvalidArgumentException $error) {
                self::assertMatchesRegularExpression('~no calendar|more than 500 events~', $error->getMessage());
            }
        }
    }

    public function test_silences_come_from_a_calendar_and_go_into_one(): void
    {
        $this->cluster();
        $text = self::calendar("DTSTART:20261024T220000Z\r\nDTEND:20261024T230000Z\r\nSUMMARY:fans are cleaned",
            "DTSTART:20261001T220000Z\r\nDTEND:20261001T230000Z\r\nSUMMARY:long ago");
        $send = fn (string $content, array $more = []) => $this->post('/tend/silences/import', $more + ['cluster' => 'fernhill',
            'calendar' => UploadedFile::fake()->createWithContent('work.ics', $content)]);
        $send($text)->assertRedirect('/tend/silences')
            ->assertSessionHas('done', '1 event was taken. Event 2 is left out: it is over.');
        // What is taken again takes the place of the one before.
        $send(str_replace('fans are cleaned', 'fans are exchanged', $text))->assertRedirect('/tend/silences');
        $silence = Silence::query()->sole();
        self::assertSame(['fans are exchanged', self::at('2026-10-24T22:00Z'), self::at('2026-10-24T23:00Z')],
            [$silence->reason, $silence->from_at, $silence->to_at]);
        $this->post('/tend/silences', ['when' => 'tomorrow 01:00-04:00', 'repeats' => 'weekly', 'reason' => 'loaders'])
            ->assertSessionHasNoErrors();
        $this->get('/tend/silences')->assertOk()->assertSee('No silence goes on now')->assertSee('every week')->assertSee('loaders');
        $out = $this->get('/tend/silences/calendar')->assertOk();
        self::assertSame('text/calendar; charset=utf-8', $out->headers->get('Content-Type'));
        [$again, $complaints] = CalendarEvent::all((string) $out->getContent(), self::at(self::NOW));
        self::assertSame([[], ['fans are exchanged', 'loaders']], [$complaints, array_map(
            static fn (CalendarEvent $one): string => $one->reason(), $again)]);
        $send('nonsense')->assertSessionHasErrors('calendar');
        $this->post('/tend/silences/import', ['cluster' => 'x'])->assertSessionHasErrors(['cluster', 'calendar']);
        $send(self::calendar("DTSTART:20261001T220000Z\r\nDTEND:20261001T230000Z"))
            ->assertSessionHas('failed', '0 events were taken. Event 1 is left out: it is over.');
        foreach (['soon' => 'is not a window', 'yesterday 01:00-02:00' => 'That is over already'] as $when => $said) {
            $this->post('/tend/silences', ['when' => $when, 'reason' => 'x'])->assertSessionHasErrors('when');
            self::assertStringContainsString($said, (string) session('errors')->first('when'));
        }
        $this->post('/tend/silences', ['when' => 'monday', 'reason' => '', 'alert' => '9', 'repeats' => 'hourly'])
            ->assertSessionHasErrors(['reason', 'alert', 'repeats']);
        $this->actingAs($this->person(Role::Viewer))->get('/tend/silences')->assertOk()->assertSee('Engineers set silences.');
    }

    public function test_deploys_are_noted_by_programs_and_stand_on_figures(): void
    {
        $cluster = $this->cluster();
        $this->app['auth']->forgetGuards();
        $token = $cluster->createToken('ci', ['deploys:write'])->plainTextToken;
        $send = fn (array $body, ?string $other = null) => $this->withToken($other ?? $token)->postJson('/api/deploys', $body);
        $send(['name' => 'loader 4.2', 'at' => '2026-10-23T22:00:00Z', 'link' => 'https://ci.example/7'])->assertOk()
            ->assertExactJson(['noted' => true]);
        $send(['name' => 'loader 4.2', 'at' => '2026-10-23T22:00:00Z'])->assertOk();
        $send(['name' => 'boards 7'])->assertOk();
        self::assertSame(2, DB::table('deploys')->count(), 'what is sent twice is one');
        $send(['at' => '2026-10-23T22:00:00Z'])->assertStatus(422)->assertJsonFragment(['name: say what was deployed, in 200 characters at '
            .'most.']);
        $send(['name' => 'x', 'at' => '9999-01-01T00:00:00Z'])->assertStatus(422);
        $send(['name' => 'x', 'at' => 'yesterday', 'link' => 'javascript:x'])->assertStatus(422)
            ->assertJsonValidationErrors(['at', 'link']);
        $this->app['auth']->forgetGuards();
        $send(['name' => 'x'], $cluster->createToken('other', ['metrics:write'])->plainTextToken)->assertForbidden();
        $now = self::at(self::NOW);
        self::assertSame(['deploys' => [$now - 7_200 => 'loader 4.2', $now => 'boards 7']],
            array_filter(app(TimeMarks::class)->kinds($cluster->id, $now - 86_400, $now + 1)));
    }

    public function test_a_message_is_signed_as_the_standard_says(): void
    {
        $sign = static fn (string $body): array => MessageSignature::headers('a secret', 'subscription-3', 'https://pager.example/in?x=1',
            $body, 1_795_392_000);
        $headers = $sign('{"event":"began"}');
        // Put together by hand, as a receiver would.
        self::assertSame('sha-256=:'.base64_encode((string) hex2bin(hash('sha256', '{"event":"began"}'))).':', $headers['Content-Digest']);
        self::assertSame(1, preg_match('~^sig=(.+)$~', $headers['Signature-Input'], $input));
        self::assertSame('("@method" "@target-uri" "content-digest");created=1795392000;keyid="subscription-3";alg="hmac-sha256"',
            $input[1]);
        $base = implode("\n", ['"@method": POST', '"@target-uri": https://pager.example/in?x=1',
            "\"content-digest\": {$headers['Content-Digest']}", "\"@signature-params\": {$input[1]}"]);
        self::assertSame('sig=:'.base64_encode((string) hex2bin(hash_hmac('sha256', $base, 'a secret'))).':', $headers['Signature']);
        self::assertNotSame($headers['Signature'], $sign('{"event":"over"}')['Signature']);
    }
}
