<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Alerts\Models\Alert;
use App\Health\Probes\ProbeBook;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Platform\Parts\OwnPart;
use App\Platform\Parts\OwnParts;
use App\Platform\Parts\PartBook;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\Wire\OpenMetricsReader;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use RuntimeException;
use Tests\TestCase;

/**
 * The application looks after itself, and says how it is to people and machines.
 */
#[Group('today')]
final class PartsTest extends TestCase
{
    private const NOW = 1_795_392_000;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        Cache::forever(OwnParts::BEAT, self::NOW - 30);
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /** @phpstan-impure */
    private function part(string $name): OwnPart
    {
        return app(PartBook::class)->all()[$name];
    }

    private function heard(int $at): void
    {
        DB::table('metric_sources')->upsert(['cluster_id' => DB::table('clusters')->value('id'), 'host' => 'here', 'kind' => 'own',
            'first_at' => 1, 'last_at' => $at, 'ahead_ms' => 0, 'refused' => 0], ['cluster_id', 'host', 'kind'], ['last_at']);
    }

    public function test_each_part_says_how_it_is(): void
    {
        $cluster = $this->cluster();
        self::assertSame('calm', $this->part('database')->mark);
        self::assertSame(['calm', 'Nothing waits.'], [$this->part('queue')->mark, $this->part('queue')->said]);
        foreach ([59 => 'calm', 60 => 'watch', 599 => 'watch', 600 => 'act'] as $seconds => $mark) {
            DB::table('jobs')->delete();
            foreach ([0, 5] as $later) {
                DB::table('jobs')->insert(['queue' => 'default', 'payload' => '{}', 'attempts' => 0, 'reserved_at' => null,
                    'available_at' => self::NOW - $seconds + $later, 'created_at' => 1]);
            }
            self::assertSame([$mark, 2.0, (float) $seconds], [$this->part('queue')->mark, $this->part('queue')->measures['waiting'],
                $this->part('queue')->measures['oldest_seconds']]);
        }
        // What is being done, or is for later, does not wait.
        DB::table('jobs')->update(['reserved_at' => 1]);
        self::assertSame('calm', $this->part('queue')->mark);
        DB::table('jobs')->update(['reserved_at' => null, 'available_at' => self::NOW + 1]);
        self::assertSame('calm', $this->part('queue')->mark);
        foreach ([119 => 'calm', 120 => 'watch', 300 => 'act'] as $seconds => $mark) {
            Cache::forever(OwnParts::BEAT, self::NOW - $seconds);
            self::assertSame($mark, $this->part('scheduler')->mark);
        }
        Cache::forget(OwnParts::BEAT);
        self::assertSame('act', $this->part('scheduler')->mark);
        self::assertGreaterThan(0.0, $this->part('disk')->measures['free_bytes']);
        self::assertSame('no data', $this->part('readings')->mark);
        foreach ([59 => 'calm', 60 => 'watch', 600 => 'act'] as $seconds => $mark) {
            $this->heard(self::NOW - $seconds);
            self::assertSame($mark, $this->part('readings')->mark);
        }
        self::assertSame('No server is watched.', $this->part('collector')->said);
        $cluster->update(['connector' => 'mariadb', 'polled_at' => Carbon::createFromTimestamp(self::NOW - 9_000)]);
        self::assertSame(['act', 'Fernhill is not read.'], [$this->part('collector')->mark, $this->part('collector')->said]);
        $cluster->update(['polled_at' => Carbon::createFromTimestamp(self::NOW - 5)]);
        self::assertSame('calm', $this->part('collector')->mark);
        self::assertSame('No probe is set.', $this->part('probes')->said);
        app(ProbeBook::class)->set($cluster, $this->person(), 'SELECT 1', '', 300);
        self::assertSame('watch', $this->part('probes')->mark);
        self::assertSame('All messages went out.', $this->part('outbox')->said);
        $letter = ['watcher_id' => 0, 'kind' => 'mail', 'recipient' => 'a', 'subject' => 's', 'body' => 'b'];
        Notification::query()->create($letter + ['state' => 'waiting', 'made_us' => Clock::microseconds() - 601_000_000]);
        self::assertSame(['watch', '1 message waits for more than ten minutes, or are tried again.'],
            [$this->part('outbox')->mark, $this->part('outbox')->said]);
        Notification::query()->create($letter + ['state' => 'failed', 'made_us' => Clock::microseconds() - 1]);
        self::assertSame('act', $this->part('outbox')->mark);
        self::assertSame('calm', $this->part('alerts')->mark);
        $alert = Alert::query()->create(['cluster_id' => $cluster->id, 'name' => 'a', 'signal' => 'load:waiting', 'watched' => 'value',
            'side' => 'above', 'threshold' => 1.0, 'calm' => 1.0, 'for_seconds' => 0, 'calm_seconds' => 0, 'is_urgent' => false,
            'is_on' => true, 'made_by' => 'x', 'judged_to' => self::NOW - 3_600]);
        self::assertSame('act', $this->part('alerts')->mark);
        $alert->update(['judged_to' => self::NOW - 900]);
        self::assertSame('calm', $this->part('alerts')->mark);
        $alert->update(['error' => 'gone']);
        self::assertSame(['act', '1 alert cannot be judged.'], [$this->part('alerts')->mark, $this->part('alerts')->said]);
    }

    public function test_what_was_remembered_and_is_over_is_forgotten(): void
    {
        foreach (['over' => self::NOW - 1, 'not over' => self::NOW] as $key => $until) {
            DB::table('cache')->insert(['key' => $key, 'value' => 'x', 'expiration' => $until]);
        }
        self::assertSame(0, Artisan::call('platform:tidy'));
        self::assertSame(['not over'], DB::table('cache')->pluck('key')->all());
    }

    public function test_a_certificate_near_its_end_is_told(): void
    {
        self::assertArrayNotHasKey('certificate', app(PartBook::class)->all());
        $key = openssl_pkey_new(['private_key_bits' => 2_048]);
        self::assertNotFalse($key);
        $request = openssl_csr_new(['commonName' => 'fulcrion.example'], $key);
        self::assertInstanceOf(\OpenSSLCertificateSigningRequest::class, $request);
        $certificate = openssl_csr_sign($request, null, $key, 30);
        self::assertNotFalse($certificate);
        openssl_x509_export($certificate, $text);
        $path = $this->file([$text], 'crt');
        config(['fulcrion.certificate' => $path]);
        $this->app->forgetInstance(PartBook::class);
        foreach ([0 => 'calm', 8 => 'calm', 9 => 'watch', 22 => 'watch', 23 => 'act', 31 => 'act'] as $days => $mark) {
            Carbon::setTestNow(Carbon::createFromTimestamp(time() + $days * 86_400 + 600));
            self::assertSame($mark, $this->part('certificate')->mark, "{$days} days later");
        }
        self::assertSame('It has ended.', $this->part('certificate')->said);
        file_put_contents($path, 'nonsense');
        self::assertSame('no data', $this->part('certificate')->mark);
    }

    public function test_machines_are_told_and_strangers_learn_no_more_than_that(): void
    {
        $own = $this->cluster();
        $own->update(['is_own' => true]);
        $this->heard(self::NOW - 700);
        $this->get('/up')->assertOk()->assertContent('up');
        $answer = $this->getJson('/up')->assertOk();
        self::assertSame('act', $answer->json('state'));
        self::assertSame(['calm', 'act'], [$answer->json('parts.database'), $answer->json('parts.readings')]);
        self::assertStringNotContainsString('ago', (string) $answer->getContent());
        // A part that cannot tell stops no other.
        app(PartBook::class)->register('odd', static fn (): OwnPart => throw new RuntimeException('a secret'));
        self::assertSame('no data', $this->getJson('/up')->json('parts.odd'));
        self::assertSame(['calm', 'watch', 'no data'], [PartBook::worst(['a' => new OwnPart('calm', '')]),
            PartBook::worst(['a' => new OwnPart('calm', ''), 'b' => new OwnPart('watch', '')]),
            PartBook::worst(['a' => new OwnPart('watch', ''), 'b' => new OwnPart('no data', '')])]);
        $this->get('/tend/own')->assertRedirect('/sign-in');
        $this->actingAs($this->person())->get('/tend/own')->assertOk()->assertSee('of ')->assertSee('was read 11 min 40 s ago')
            ->assertDontSee('a secret');
        $this->app['auth']->forgetGuards();
        $this->getJson('/api/own-metrics')->assertUnauthorized();
        $this->withToken($own->createToken('x', ['metrics:write'])->plainTextToken)->getJson('/api/own-metrics')->assertForbidden();
        $this->app['auth']->forgetGuards();
        $text = $this->withToken($own->createToken('y', ['parts:read'])->plainTextToken)->get('/api/own-metrics')->assertOk();
        self::assertSame('application/openmetrics-text; version=1.0.0; charset=utf-8', $text->headers->get('Content-Type'));
        // Our own reader of the format takes it without a complaint.
        $read = OpenMetricsReader::read((string) $text->getContent(), 'here', self::NOW * 1_000, true);
        self::assertSame([], $read->complaints);
        $byName = [];
        foreach ($read->values as $one) {
            $byName[$one->metric->key()] = $one->metric->value;
        }
        self::assertSame(700.0, $byName['fulcrion_readings_last_seconds'] ?? null);
        self::assertSame(2.0, $byName['fulcrion_part_state {"part":"readings"}'] ?? null);
        self::assertSame(0.0, $byName['fulcrion_part_state {"part":"database"}'] ?? null);
        self::assertArrayNotHasKey('fulcrion_part_state {"part":"odd"}', $byName);
        self::assertStringEndsWith("# EOF\n", (string) $text->getContent());
    }

    public function test_what_does_not_work_is_a_finding_until_it_works(): void
    {
        self::assertSame(0, Artisan::call('ledger:parts'));
        $own = $this->cluster();
        $own->update(['is_own' => true]);
        $this->heard(self::NOW - 700);
        self::assertSame(0, Artisan::call('ledger:parts'));
        $finding = Finding::query()->sole();
        self::assertSame(['own-parts', true, 'Readings of Fulcrion: The host it runs on was read 11 min 40 s ago.'],
            [$finding->source, $finding->urgent, $finding->problem]);
        $this->actingAs($this->person())->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('/tend/own', false);
        $this->heard(self::NOW - 10);
        Artisan::call('ledger:parts');
        self::assertSame('solved', $finding->refresh()->state->value);
        $this->get('/tend/own')->assertOk()->assertSee('All parts of Fulcrion work');
    }
}
