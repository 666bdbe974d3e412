/* A section of the file with is = sites. */
#include "afar.h"

void afar_read(struct afar_config *config, const struct ini_section *section,
               struct problems *problems)
{
    struct place place = entries_place(section);
    const char *is = NULL;
    const char *url = NULL;
    const struct entry_key own[] = {
        {"is", &is, NULL, NULL},
        {"broker", &url, mqtt_take_url, MQTT_URL_FORM}};
    if (config->name)
        problem_error(problems, place,
                      "[%s] follows the sites of a broker already",
                      config->name);
    mqtt_read(&config->at, section, own, problems);
    config->name = section->name;
    if (!url)
        problem_error(problems, place,
                      "needs broker = mqtts://HOST:PORT, whose sites it is to "
                      "follow");
}
