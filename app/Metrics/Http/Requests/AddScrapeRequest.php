<?php

declare(strict_types=1);

namespace App\Metrics\Http\Requests;

use App\Estate\Models\Cluster;
use App\Platform\Support\Reachable;
use Closure;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to SourceController::add().
 */
final class AddScrapeRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'host' => ['required', 'string', 'max:120', 'regex:~^[\w.:-]+$~u'],
            'address' => ['required', 'string', 'max:500', $this->reaches(...)],
            'seconds' => ['required', 'integer', 'between:10,3600'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster.',
            'host.*' => 'Write the name of the host, without spaces.',
            'address.required' => 'Write the address that is asked, as http://fern-01.example:9100/metrics.',
            'address.max' => 'An address has 500 characters at most.',
            'seconds.*' => 'An address is asked every 10 to 3600 seconds.',
        ];
    }

    private function reaches(string $field, mixed $value, Closure $fail): void
    {
        $parts = is_string($value) ? parse_url($value) : false;
        if ($parts === false || ! in_array($parts['scheme'] ?? '', ['http', 'https'], true) || ($parts['host'] ?? '') === ''
            || isset($parts['user']) || isset($parts['fragment'])) {
            $fail('Write an address that begins with http:// or https://, without a name and password in it.');

            return;
        }
        $refusal = Reachable::configured()->refusal($parts['host']);
        if ($refusal !== null) {
            $fail($refusal);
        }
    }
}
