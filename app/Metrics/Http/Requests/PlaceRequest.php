<?php

declare(strict_types=1);

namespace App\Metrics\Http\Requests;

use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\PlaceState;
use App\Platform\Support\Reachable;
use Closure;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to PlaceController::set().
 */
final class PlaceRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'host' => ['required', 'string', 'max:190', 'regex:~^[A-Za-z0-9.:_-]+$~', $this->reaches(...)],
            'port' => ['required', 'integer', 'between:1,65535'],
            'database' => ['required', 'string', 'max:64', 'regex:~^[\w$-]+$~'],
            'username' => ['required', 'string', 'max:80'],
            'secret' => ['required', 'string', 'max:190'],
            'tls' => ['boolean'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'host.required' => 'Write the host name or the address of the server.',
            'host.regex' => 'Write a host name or an address, without port or path.',
            'port.*' => 'A port is a number from 1 to 65535; MariaDB listens on 3306 as it comes.',
            'database.*' => 'Write the name of a database of that server, of letters, digits, $, _ and -, 64 at most.',
            'username.*' => 'Write the user who may create and write tables there, 80 characters at most.',
            'secret.*' => 'Write the password of that user, 190 characters at most.',
        ];
    }

    public function place(int $clusterId): KeptPlace
    {
        return new KeptPlace([
            'cluster_id' => $clusterId, 'host' => $this->validated('host'), 'port' => (int) $this->validated('port'),
            'name' => $this->validated('database'), 'username' => $this->validated('username'), 'secret' => $this->validated('secret'),
            'tls' => $this->boolean('tls'), 'state' => PlaceState::Coming,
        ]);
    }

    private function reaches(string $field, mixed $value, Closure $fail): void
    {
        $refusal = is_string($value) ? Reachable::configured()->refusal($value) : null;
        if ($refusal !== null) {
            $fail($refusal);
        }
    }
}
