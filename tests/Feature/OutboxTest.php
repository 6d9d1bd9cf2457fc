<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\Dispatcher;
use App\Ledger\Notifications\ForOutbox;
use App\Ledger\Notifications\OutboxChannel;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Illuminate\Mail\Events\MessageSent;
use Illuminate\Notifications\AnonymousNotifiable;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;
use Illuminate\Support\Facades\Http;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What waits in the outbox: who may read it, what goes with it, and when it is tried again.
 */
#[Group('today')]
final class OutboxTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 10:00:00');
    }

    /**
     * @param  list<array{name: string, type: string, content: string}>  $files
     */
    private function letter(?string $ability = null, array $files = [], string $subject = 'A word'): Notification
    {
        $id = app(OutboxChannel::class)->send(
            (new AnonymousNotifiable())->route(OutboxChannel::class, 'somebody@brackenfold.example'),
            new class($ability, $files, $subject) extends ForOutbox
            {
                /**
                 * @param  list<array{name: string, type: string, content: string}>  $files
                 */
                public function __construct(
                    private readonly ?string $ability,
                    private readonly array $files,
                    private readonly string $subject,
                ) {
                }

                public function toOutbox(?Subscription $subscription): array
                {
                    return [$this->subject, 'The body'];
                }

                public function ability(): ?string
                {
                    return $this->ability;
                }

                public function files(): array
                {
                    return $this->files;
                }
            },
        );

        return Notification::query()->findOrFail($id);
    }

    private function mails(): void
    {
        config(['mail.default' => 'testing', 'mail.mailers.testing' => ['transport' => 'array']]);
    }

    public function test_each_reads_what_they_may(): void
    {
        $open = $this->letter(subject: 'For everybody');
        $priced = $this->letter('price', subject: 'For who writes prices');
        $revealed = $this->letter('reveal', subject: 'For who may reveal');
        foreach ([
            [Role::Viewer, [true, false, false]], [Role::Engineer, [true, false, true]], [Role::Steward, [true, false, true]],
            [Role::Owner, [true, true, true]],
        ] as [$role, $sees]) {
            $this->actingAs($this->person($role));
            $page = (string) $this->get('/ledger/outbox')->assertOk()->getContent();
            self::assertSame($sees, array_map(
                static fn (string $subject): bool => str_contains($page, $subject),
                ['For everybody', 'For who writes prices', 'For who may reveal'],
            ), $role->value);
            foreach ([$open, $priced, $revealed] as $i => $letter) {
                $this->get("/ledger/outbox/{$letter->id}")->assertStatus($sees[$i] ? 200 : 403);
            }
        }
    }

    public function test_files_go_along_are_listed_and_belong_to_their_message(): void
    {
        $this->mails();
        $bytes = random_bytes(3_000);
        $first = $this->letter(files: [
            ['name' => 'a.pdf', 'type' => 'application/pdf', 'content' => $bytes],
            ['name' => 'b.html', 'type' => 'text/html; charset=utf-8', 'content' => '<b>ü</b>'],
        ]);
        $second = $this->letter();
        self::assertSame([['a.pdf', 3_000], ['b.html', 9]], array_map(
            static fn ($file): array => [$file->name, (int) $file->bytes],
            $first->files(),
        ));
        self::assertSame([], $second->files());
        $this->actingAs($this->person(Role::Viewer));
        $id = $first->files()[0]->id;
        $this->get("/ledger/outbox/{$first->id}")->assertSee('a.pdf')->assertSee('2.93 KiB')->assertSee('Goes with it');
        $this->get("/ledger/outbox/{$second->id}")->assertDontSee('Goes with it');
        self::assertSame($bytes, $this->get("/ledger/outbox/{$first->id}/files/{$id}")->assertOk()
            ->assertHeader('Content-Disposition', 'attachment; filename="a.pdf"')->getContent());
        // Not by the number of another message.
        $this->get("/ledger/outbox/{$second->id}/files/{$id}")->assertNotFound();
        $sent = [];
        Event::listen(MessageSent::class, static function (MessageSent $event) use (&$sent): void {
            $sent[] = array_map(static fn ($file): string => (string) $file->getBody(), $event->message->getAttachments());
        });
        self::assertSame(2, app(Dispatcher::class)->send());
        self::assertSame([[$bytes, '<b>ü</b>'], []], $sent);
    }

    public function test_webhooks_wait_longer_each_time_and_other_messages_do_not_wait_for_them(): void
    {
        $this->mails();
        $subscription = Subscription::query()->create([
            'kind' => 'webhook', 'target' => 'https://198.51.100.7/hook', 'digest' => false, 'made_by' => 'x',
        ]);
        $hook = Notification::query()->create([
            'watcher_id' => $subscription->id, 'kind' => 'webhook', 'recipient' => 'x', 'subject' => 's', 'body' => '{}',
            'state' => 'waiting', 'made_us' => Clock::microseconds(),
        ]);
        $answers = Http::sequence()->push('', 500)->push('', 500)->push('', 200);
        Http::fake(['*' => $answers]);
        $dispatcher = app(Dispatcher::class);
        self::assertSame(0, $dispatcher->send());
        self::assertSame(['waiting', 1, 60], [
            $hook->refresh()->state, $hook->tries, intdiv((int) $hook->retry_us - Clock::microseconds(), 1_000_000),
        ]);
        self::assertStringContainsString('answered 500', (string) $hook->error);
        $letter = $this->letter();
        self::assertSame(1, $dispatcher->send(), 'the letter, at once');
        self::assertSame('sent', $letter->refresh()->state);
        $this->travel(60)->seconds();
        self::assertSame(0, $dispatcher->send());
        self::assertSame([2, 300], [$hook->refresh()->tries, intdiv((int) $hook->retry_us - Clock::microseconds(), 1_000_000)]);
        $this->travel(299)->seconds();
        self::assertSame(0, $dispatcher->send());
        $this->travel(1)->seconds();
        self::assertSame(1, $dispatcher->send());
        self::assertSame(['sent', null], [$hook->refresh()->state, $hook->error]);
        self::assertNotNull($hook->sent_us);
    }

    public function test_somebody_who_cannot_wait_sends_what_waits_now(): void
    {
        config(['mail.default' => 'smtp', 'mail.mailers.smtp' => ['transport' => 'smtp', 'host' => '127.0.0.1', 'port' => 1]]);
        $letter = $this->letter();
        app(Dispatcher::class)->send();
        self::assertNotNull($letter->refresh()->retry_us);
        $this->mails();
        $this->actingAs($this->person(Role::Engineer))->post('/ledger/outbox/send')->assertForbidden();
        $this->actingAs($this->person(Role::Owner))->post('/ledger/outbox/send')->assertSessionHas('done', '1 message went out.');
        self::assertSame('sent', $letter->refresh()->state);
        $this->post('/ledger/outbox/send')->assertSessionHas('done', '0 messages went out.');
    }

    public function test_without_a_mail_server_it_is_kept_with_its_files_and_says_so(): void
    {
        config(['mail.default' => 'log']);
        $letter = $this->letter(files: [['name' => 'a.txt', 'type' => 'text/plain', 'content' => 'x']]);
        self::assertSame(0, app(Dispatcher::class)->send());
        self::assertSame('kept', $letter->refresh()->state);
        $this->actingAs($this->person(Role::Viewer))->get("/ledger/outbox/{$letter->id}")->assertSee('no mail server is set up here')
            ->assertSee('a.txt');
        $this->get('/ledger/outbox?state=kept')->assertSee('A word');
        $this->get('/ledger/outbox?state=sent')->assertDontSee('A word');
        self::assertSame(1, DB::table('notification_files')->count());
    }
}
