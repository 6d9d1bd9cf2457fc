<?php

declare(strict_types=1);

namespace App\Ledger\Notifications;

/**
 * The signature of a message to a webhook, by which its receiver knows who sent it and that nothing in it was changed: HMAC with SHA-256
 * over method, address and digest of the body (RFC 9421), the digest as in RFC 9530.
 */
final readonly class MessageSignature
{
    private const COVERED = '("@method" "@target-uri" "content-digest")';

    /**
     * @param  string  $key name of the secret, so that a receiver of several knows which
     * @return array<string, string>
     */
    public static function headers(#[\SensitiveParameter] string $secret, string $key, string $target, string $body, int $at): array
    {
        $digest = 'sha-256=:'.base64_encode(hash('sha256', $body, true)).':';
        $parameters = self::COVERED.";created={$at};keyid=\"{$key}\";alg=\"hmac-sha256\"";
        $signed = "\"@method\": POST\n\"@target-uri\": {$target}\n\"content-digest\": {$digest}\n\"@signature-params\": {$parameters}";

        return [
            'Content-Digest' => $digest,
            'Signature-Input' => "sig={$parameters}",
            'Signature' => 'sig=:'.base64_encode(hash_hmac('sha256', $signed, $secret, true)).':',
        ];
    }
}
