<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Support\Role;
use Illuminate\Testing\TestResponse;
use Tests\TestCase;

final class HttpIntakeTest extends TestCase
{
    private const LINES = <<<'LINES'
    {"started_at":"2026-11-20T06:00:00Z","duration_us":10,"sql":"SELECT 1"}
    {"started_at":"2026-11-20T06:00:01Z","duration_us":-3,"sql":"SELECT 1"}
    {"started_at":"2026-11-20T06:00:02Z","duration_us":10,"sql":"SELECT 2","cluster":"wren"}
    LINES;

    public function test_counts_what_was_taken_set_aside_and_repeated(): void
    {
        $token = $this->cluster()->createToken('sender', ['executions:write'])->plainTextToken;
        $this->send($token, self::LINES)
            ->assertOk()
            ->assertJson(['taken' => 1, 'set_aside' => 2, 'repeated' => 0])
            ->assertJsonPath('reasons.0.line', 2)
            ->assertJsonPath('reasons.0.field', 'duration_us')
            ->assertJsonPath('reasons.1.field', 'cluster');
        $this->send($token, (string) gzencode(self::LINES), ['CONTENT_ENCODING' => 'gzip', 'HTTP_CONTENT_ENCODING' => 'gzip'])
            ->assertOk()
            ->assertJson(['taken' => 0, 'set_aside' => 2, 'repeated' => 1]);
        self::assertSame(1, $this->executions());
    }

    public function test_refuses_in_words(): void
    {
        $cluster = $this->cluster();
        $this->send('nonsense', self::LINES)
            ->assertUnauthorized()
            ->assertJsonPath('error', fn (string $text): bool => str_contains($text, 'token'));
        $this->send($cluster->createToken('reader', ['other'])->plainTextToken, self::LINES)->assertForbidden();
        $token = $cluster->createToken('sender', ['executions:write'])->plainTextToken;
        $this->send($token, "\x1f\x8bbroken")->assertStatus(400);
        $this->send($token, 'not json')
            ->assertStatus(422)
            ->assertJson(['taken' => 0, 'set_aside' => 1]);
        // A browser session is no token.
        $this->app['auth']->forgetGuards();
        $this->actingAs($this->person(Role::Owner), 'web')
            ->call('POST', '/api/executions', [], [], [], ['HTTP_ACCEPT' => 'application/json'], self::LINES)
            ->assertUnauthorized();
        self::assertSame(0, $this->executions());
    }

    /**
     * @param  array<string, string>  $headers
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    private function send(string $token, string $body, array $headers = []): TestResponse
    {
        $this->app['auth']->forgetGuards();

        return $this->call(
            'POST',
            '/api/executions',
            [],
            [],
            [],
            ['HTTP_AUTHORIZATION' => "Bearer {$token}", 'HTTP_ACCEPT' => 'application/json', ...$headers],
            $body,
        );
    }
}
