<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use App\Profiles\Models\KeptProfile;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Http\UploadedFile;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Profiles: sent as text, taken of a real server and of a statement, looked at and held against each other.
 */
#[Group('today')]
final class ProfileTest extends TestCase
{
    use WatchedServer;

    private User $owner;

    protected function setUp(): void
    {
        parent::setUp();
        $this->owner = $this->person(Role::Owner);
        $this->actingAs($this->owner);
    }

    private function send(string $text, string $name = 'engine'): ?KeptProfile
    {
        $before = KeptProfile::query()->max('id');
        $this->post('/tend/profiles', ['name' => $name, 'file' => UploadedFile::fake()->createWithContent('p.folded', $text)]);

        return KeptProfile::query()->where('id', '>', $before ?? 0)->latest('id')->first();
    }

    public function test_a_profile_is_sent_looked_at_searched_and_saved_again(): void
    {
        $profile = $this->send("main;scan;decode 60\nmain;scan 10\nmain;join 20\nidle 10\nnonsense\n");
        self::assertNotNull($profile);
        self::assertSame([100.0, 1, 'samples'], [$profile->total, $profile->refused, $profile->unit]);
        $this->get("/tend/profiles/{$profile->id}")->assertOk()->assertSee('60% of the time is spent in decode itself, and 70% below scan')
            ->assertSee('scan: 70%, 70 samples; itself 10%', false)->assertSee('1 lines were left out');
        $this->get("/tend/profiles/{$profile->id}?search=JOIN")->assertOk()->assertSee('20% of the time has a function')
            ->assertSee('icicle i', false)->assertSee(' found"', false);
        $this->get("/tend/profiles/{$profile->id}?at=main%3Bscan")->assertOk()->assertSee('scan: 70% of the profile, 1 functions below it.')
            ->assertDontSee('idle: 10%');
        $this->get("/tend/profiles/{$profile->id}?at=nowhere")->assertOk()->assertSee('idle: 10%');
        self::assertSame("main;scan;decode 60\nmain;join 20\nmain;scan 10\nidle 10\n",
            $this->get("/tend/profiles/{$profile->id}/file")->assertOk()->getContent());
        $this->get('/tend/profiles')->assertOk()->assertSee('One profile is kept');
        $this->post("/tend/profiles/{$profile->id}/remove")->assertRedirect();
        $this->get("/tend/profiles/{$profile->id}")->assertNotFound();
    }

    public function test_two_profiles_are_held_against_each_other_by_their_shares(): void
    {
        $before = $this->send("main;scan 80\nmain;gone 20\n", 'before');
        $now = $this->send("main;scan 10\nmain;join 30\n", 'now');
        $page = $this->get("/tend/profiles/{$now?->id}?with={$before?->id}")->assertOk()->assertSee('Functions that changed most')
            ->assertSee('scan: 25%, 10 samples; itself 25%; before 80%', false)->assertSee('icicle-before', false);
        self::assertMatchesRegularExpression('~gone</a></td>\s*<td class="n">0%</td>\s*<td class="n">20%</td>~',
            (string) $page->getContent());
    }

    public function test_a_file_without_a_stack_is_refused_and_markup_is_only_text(): void
    {
        $this->post('/tend/profiles', ['name' => 'x', 'file' => UploadedFile::fake()->createWithContent('p', "nothing here\n")])
            ->assertSessionHas('failed',
                'Nothing was kept: the file holds no stack. Line 1: it is no stack with a number behind it, and no '
                .'line of perf script.');
        $profile = $this->send("<script>alert(1)</script>;\"x\" 5\nbad\xff;y 1\n", '<b>name</b>');
        $this->get("/tend/profiles/{$profile?->id}")->assertOk()->assertDontSee('<script>alert(1)', false)->assertDontSee('<b>name', false)
            ->assertSee('&lt;script&gt;alert(1)', false);
    }

    public function test_a_profile_of_200_megabytes_is_read_in_bounded_memory(): void
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'profile');
        $handle = fopen($path, 'wb');
        self::assertIsResource($handle);
        $line = 'worker;'.implode(';', array_map(static fn (int $i): string => "a_function_with_a_long_name_{$i}", range(1, 60)));
        $lines = 0;
        for ($bytes = 0; $bytes < 200_000_000; $lines++) {
            $bytes += (int) fwrite($handle, $line.';leaf_'.($lines % 1_000)." 1\n");
        }
        fclose($handle);
        $before = memory_get_peak_usage();
        $this->post('/tend/profiles', ['name' => 'large', 'file' => new UploadedFile($path, 'large.folded', null, null, true)])
            ->assertSessionHasNoErrors();
        self::assertLessThan(128 * 1_048_576, memory_get_peak_usage() - $before);
        $profile = KeptProfile::query()->firstOrFail();
        self::assertSame((float) $lines, $profile->total);
        self::assertLessThan(1_000_000, strlen((string) $profile->stacks));
        @unlink($path);
    }

    public function test_a_line_without_end_is_no_stack_and_breaks_nothing(): void
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'profile');
        $handle = fopen($path, 'wb');
        self::assertIsResource($handle);
        fwrite($handle, "main;read 5\n");
        for ($i = 0; $i < 40; $i++) {
            fwrite($handle, str_repeat('x;', 500_000));
        }
        fwrite($handle, " 1\nmain;write 7\n");
        fclose($handle);
        $before = memory_get_peak_usage();
        $this->post('/tend/profiles', ['name' => 'odd', 'file' => new UploadedFile($path, 'odd.folded', null, null, true)])
            ->assertSessionHasNoErrors();
        self::assertLessThan(64 * 1_048_576, memory_get_peak_usage() - $before);
        $profile = KeptProfile::query()->firstOrFail();
        self::assertSame(7.0, $profile->tree()->root->at(['main', 'write'])?->total, 'what follows is read');
        self::assertGreaterThan(30, $profile->refused);
        @unlink($path);
    }

    public function test_stages_and_waits_of_a_real_server_are_taken(): void
    {
        self::started();
        self::admin()->exec('CREATE DATABASE IF NOT EXISTS farm');
        $orchard = $this->watched('orchard');
        $busy = self::server()->session('farm');
        $busy->query('SELECT SLEEP(4)', MYSQLI_ASYNC);
        $this->post('/tend/profiles/take', ['name' => 'sessions', 'cluster' => $orchard->slug, 'seconds' => 1])->assertSessionHasNoErrors();
        $profile = KeptProfile::query()->firstOrFail();
        self::assertSame([null, 'done'], [$profile->error, $profile->state]);
        $stack = $profile->tree()->root->at(['root', 'SELECT', 'User sleep']);
        self::assertNotNull($stack, $profile->text());
        self::assertEqualsWithDelta(1_000.0, $stack->total, 400.0, 'a session that is there all the time takes all of it');
        self::assertStringNotContainsString('SLEEP(4)', $profile->text(), 'of a statement only its first word');
        $this->get("/tend/profiles/{$profile->id}")->assertOk()->assertSee('User sleep');
    }

    public function test_the_steps_of_a_statement_are_taken_with_the_rights_of_who_asks_and_for_them_only(): void
    {
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        Warehouse::create(PracticeClusters::root('wren'), 'Wren', 3, new HardwareProfile())->createSchema('field');
        $wren = Cluster::query()->create(['slug' => 'wren', 'name' => 'Wren', 'role' => 'rehearsal', 'connector' => 'practice',
            'dialect' => Dialect::Ansi])->refresh();
        $take = fn (string $sql) => $this->post('/tend/profiles/take', ['name' => 'count', 'cluster' => $wren->slug, 'sql' => $sql]);
        $take('SELECT count(*) FROM field.pick')->assertSessionHasNoErrors();
        $failed = KeptProfile::query()->latest('id')->firstOrFail();
        self::assertSame('failed', $failed->state);
        self::assertStringContainsString('field.pick', (string) $failed->error);
        $this->get("/tend/profiles/{$failed->id}")->assertOk()->assertSee('It was not taken');
        $run = static fn (string $sql) => app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'a test'))
            ->runner($wren)?->run($sql, 'field');
        $run('CREATE TABLE field.pick (id bigint, bay bigint) PLACED BY (id)');
        $run('INSERT INTO field.pick VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i}, 1)", range(1, 2_000))));
        $take('SELECT bay, count(*) FROM field.pick GROUP BY bay')->assertSessionHasNoErrors();
        $profile = KeptProfile::query()->latest('id')->firstOrFail();
        self::assertSame([null, 'done', 'ms', null], [$profile->error, $profile->state, $profile->unit, $profile->plan]);
        self::assertStringContainsString('field.pick', $profile->text());
        $this->get("/tend/profiles/{$profile->id}")->assertOk()->assertSee('modelled');
        $this->actingAs($this->person(Role::Engineer));
        foreach (['', '/file', '/progress'] as $part) {
            $this->get("/tend/profiles/{$profile->id}{$part}")->assertNotFound();
        }
        $this->get('/tend/profiles')->assertOk()->assertDontSee('a statement on Wren');
        $take('')->assertSessionHasErrors('sql');
        $this->post('/tend/profiles/take', ['name' => 'x', 'cluster' => 'nowhere'])->assertSessionHasErrors('cluster');
        $sent = $this->send('a;b 1');
        $this->actingAs($this->owner);
        $this->post("/tend/profiles/{$sent?->id}/remove")->assertRedirect();
        $mine = $this->send('a;b 1');
        $this->actingAs($this->person(Role::Engineer));
        $this->post("/tend/profiles/{$mine?->id}/remove")->assertForbidden();
    }
}
