<?php

declare(strict_types=1);

namespace App\Clusters\Http\Requests;

/**
 * How a server is reached.
 */
trait ServerFields
{
    /**
     * @return array<string, mixed>
     */
    private static function connection(bool $withSecret): array
    {
        return [
            'host' => ['required', 'string', 'max:190', 'regex:~^[A-Za-z0-9.:_-]+$~'],
            'port' => ['required', 'integer', 'between:1,65535'],
            'username' => ['required', 'string', 'max:80'],
            'secret' => [$withSecret ? 'required' : 'nullable', 'string', 'max:190'],
            'tls' => ['boolean'],
            'ender_username' => ['nullable', 'string', 'max:80', 'different:username'],
            'ender_secret' => ['nullable', 'string', 'max:190'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'host.regex' => 'Write a host name or an address, without port or path.',
            'ender_username.different' => 'Take another account than the one that reads: it may stop sessions and nothing else.',
            'interval_seconds.between' => 'Read every 10 to 3600 seconds.',
            'secret.required' => 'The password is needed to read the server.',
        ];
    }
}
