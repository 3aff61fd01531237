# One region at a time, with its totals as cards.
library(shiny)
library(bslib)
library(ochre)

districts <- read_boundaries(ochre_demo("districts.geojson"))
districts <- rate_per(districts, population_65_plus, population, 100, name = "over_64")
regions <- sort(unique(districts$region))

sheet_of <- function(region) {
  of_all <- region == "Orvane"
  shown <- if (of_all) districts else districts[districts$region == region, ]
  map_sheet(
    sprintf("People over 64 in %s", if (of_all) "Orvane" else region),
    source = "Orvane Statistics, made-up figures"
  ) |>
    shade_areas(
      shown, over_64,
      steps = steps_quantile(4, digits = 1), ramp = "woad",
      legend = "Percent of residents", hover = "{name}: {over_64} %"
    )
}

card_of <- function(title, number, digits = 0) {
  card(card_header(title), card_body(tags$strong(
    style = "font-size: 1.6rem",
    format(round(number, digits), big.mark = ",", nsmall = digits)
  )))
}

ui <- page_fluid(
  title = "People over 64",
  selectInput("region", "Region", c("Orvane", regions), selectize = FALSE),
  uiOutput("cards"),
  ochre_output("map", height = "520px")
)

server <- function(input, output, session) {
  output$map <- render_ochre(sheet_of("Orvane"))
  observeEvent(input$region, ignoreInit = TRUE, {
    live_map("map") |> change_map(sheet_of(input$region)) |> look_at()
  })
  output$cards <- renderUI({
    all <- input$region == "Orvane"
    shown <- if (all) districts else districts[districts$region == input$region, ]
    layout_column_wrap(
      1 / 3,
      card_of("Residents", sum(shown$population)),
      card_of("Over 64", sum(shown$population_65_plus)),
      card_of("Percent", 100 * sum(shown$population_65_plus) / sum(shown$population), 1)
    )
  })
}

shinyApp(ui, server)
